import { writeFileSync } from 'node:fs'
import { ropewalkDevices } from '../ropewalk/devices'
import { runDevice } from './device'

// node device.mjs <device id> <state file> [port]: prints its port, then serves until it is stopped.
const [id, stateFile, port] = process.argv.slice(2)
const device = ropewalkDevices.find(d => d.id === id)
if (!device || !stateFile) {
  console.error(`Usage: device <${ropewalkDevices.map(d => d.id).join('|')}> <state file> [port]`)
  process.exit(2)
}
const running = await runDevice(device, stateFile, Number(port ?? 0))
writeFileSync(`${stateFile}.pid`, String(process.pid))
console.log(JSON.stringify({ device: id, port: running.port }))
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0))
// the start script holds our standard input open: when it is gone, however it went, so are we
process.stdin.on('end', () => process.exit(0)).resume()
