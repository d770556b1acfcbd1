import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ropewalkDevices } from '../ropewalk/devices'
import { advertise } from './advertise'
import { openDesk } from './desk'
import { runDevice } from './device'
import { speakEnglish } from '../../core/words/say'

speakEnglish()
// node device.mjs <device id> <folder> [port of its desk]: prints its ports, then serves until it is stopped.
const [id, folder, port] = process.argv.slice(2)
const device = ropewalkDevices.find(d => d.id === id)
if (!device || !folder) {
  console.error(`Usage: device <${ropewalkDevices.map(d => d.id).join('|')}> <folder> [port of its desk]`)
  process.exit(2)
}
mkdirSync(folder, { recursive: true })
const running = await runDevice(device, folder)
const desk = await openDesk(running, Number(port ?? 0))
advertise(device.name, running.port)
writeFileSync(join(folder, `${id}.pid`), String(process.pid))
writeFileSync(join(folder, `${id}.desk`), String(desk.port))
console.log(JSON.stringify({ device: id, desk: desk.port, port: running.port }))
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0))
// the start script holds our standard input open: when it is gone, however it went, so are we
process.stdin.on('end', () => process.exit(0)).resume()
