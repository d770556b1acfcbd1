// npm run restore -- FILE [--replace]: puts back what a backup holds, all of it or nothing.
import { createReadStream, existsSync } from 'node:fs'
import { Readable } from 'node:stream'
import { parseArgs } from 'node:util'
import { asked, running } from './running.mjs'
import { failWith, say, Stop } from './say.mjs'

async function main() {
  const options = { replace: { type: 'boolean', default: false } }
  const { values: { replace }, positionals: [file] } = parseArgs({ options, allowPositionals: true })
  if (!file) throw new Stop('Say which: npm run restore -- FILE [--replace]')
  if (!existsSync(file)) throw new Stop(`There is no file ${file}.`)
  const body = Readable.toWeb(createReadStream(file))
  const headers = { 'content-type': 'application/gzip' }
  const url = `${await running()}/api/restore?replace=${replace}`
  const answer = await asked(url, { method: 'POST', body, headers, duplex: 'half' })
  const { restored, left } = await answer.json()
  say(`Put back: ${restored.length ? restored.join(', ') : 'no site'}.`)
  if (!left.length) return
  say(`Were here already and stay as they are: ${left.join(', ')}. With --replace they make room.`)
}

main().catch(failWith)
