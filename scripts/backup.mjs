// npm run backup [-- FILE] [-- --site ID]: everything, or one site, as one archive that was read back.
import { createReadStream, createWriteStream, existsSync, renameSync, rmSync, statSync } from 'node:fs'
import { resolve } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { parseArgs } from 'node:util'
import { asked, running } from './running.mjs'
import { failWith, say, Stop } from './say.mjs'

async function main() {
  const { values: { site }, positionals } = parseArgs({ options: { site: { type: 'string' } }, allowPositionals: true })
  const usual = `kovrin-${site ?? 'everything'}-${new Date().toISOString().slice(0, 19).replace(/:/g, '')}.jsonl.gz`
  const file = resolve(positionals[0] ?? usual)
  if (existsSync(file)) throw new Stop(`${file} is there already: it is not overwritten. Name another.`)
  const at = await running()
  const half = `${file}.part`
  try {
    const query = site === undefined ? '' : `?site=${encodeURIComponent(site)}`
    const archive = await asked(`${at}/api/backup${query}`)
    await pipeline(Readable.fromWeb(archive.body), createWriteStream(half, { mode: 0o600 }))
    const body = Readable.toWeb(createReadStream(half))
    const headers = { 'content-type': 'application/gzip' }
    const check = await asked(`${at}/api/backup/check`, { method: 'POST', body, headers, duplex: 'half' })
    const { rows: { sites = 0, takes = 0, changes = 0 } } = await check.json()
    renameSync(half, file)
    say(`${file}: ${(statSync(file).size / 1e6).toFixed(1)} MB, read back and whole.`)
    say(`It holds ${sites} sites with ${takes} takes and ${changes} changes.`)
  }
  catch (error) {
    rmSync(half, { force: true })
    throw error
  }
}

main().catch(failWith)
