import { connect } from 'node:net'
import * as v from 'valibot'
import { Band, Capability, Pass, Settings } from '../../core/rig'
import { DeviceRefusal, type DeviceConnection, type DeviceDriver } from './driver'

const Value = v.union([v.number(), v.boolean(), v.null(), Pass, Band])
const Description = v.object({ capability: Capability, settings: Settings })
const Written = v.object({ path: v.string(), value: Value })
const Change = v.object({ event: v.literal('changed'), path: v.string(), value: Value })
const answerTime = 2000
const longestLine = 4 * 1024 * 1024

/** Speaks the stand-ins' protocol: one line of JSON a message over TCP. `address` is host:port. */
export const lineDriver: DeviceDriver = (address, events) =>
  new Promise<DeviceConnection>((resolve, reject) => {
    const [host, port] = [
      address.slice(0, address.lastIndexOf(':')),
      Number(address.slice(address.lastIndexOf(':') + 1)),
    ]
    if (!host || !Number.isInteger(port)) return reject(new Error(`“${address}” is not host:port`))
    const socket = connect({ host, port, timeout: answerTime })
    const waiting = new Map<
      number,
      { resolve: (answer: unknown) => void, reject: (error: Error) => void, timer: NodeJS.Timeout }
    >()
    let next = 1
    let rest = ''
    let open = false
    let over = false

    const end = (why: string) => {
      if (over) return
      over = true
      socket.destroy()
      for (const w of waiting.values()) {
        clearTimeout(w.timer)
        w.reject(new Error(why))
      }
      waiting.clear()
      if (open) events.lost(why)
      else reject(new Error(why))
    }

    const ask = (message: object): Promise<unknown> =>
      new Promise((done, fail) => {
        if (over) return fail(new Error('The connection is closed'))
        const id = next++
        const timer = setTimeout(() => end('The device does not answer'), answerTime)
        waiting.set(id, { resolve: done, reject: fail, timer })
        socket.write(`${JSON.stringify({ id, ...message })}\n`)
      })

    const take = (line: string) => {
      let message: { id?: unknown, error?: unknown }
      try {
        message = JSON.parse(line)
      }
      catch {
        return end('The device sent something that is not JSON')
      }
      const change = v.safeParse(Change, message)
      if (change.success) return events.changed(change.output.path, change.output.value)
      const asked = waiting.get(Number(message.id))
      if (!asked) return
      waiting.delete(Number(message.id))
      clearTimeout(asked.timer)
      if (message.error !== undefined) asked.reject(new DeviceRefusal(String(message.error)))
      else asked.resolve(message)
    }

    socket.setEncoding('utf8')
    socket.setNoDelay(true)
    socket.on('data', (text: string) => {
      const lines = (rest + text).split('\n')
      rest = lines.pop()!
      if (rest.length > longestLine) end('The device sent a line without end')
      for (const line of lines) if (line && !over) take(line)
    })
    socket.on('timeout', () => {
      if (!open) end('No answer at this address')
    })
    socket.on('error', (error: NodeJS.ErrnoException) =>
      end(error.code === 'ECONNREFUSED' ? `Nobody answers at ${address}` : error.message),
    )
    socket.on('close', () => end('The device closed the connection'))
    socket.on('connect', () => {
      open = true
      socket.setTimeout(0)
      resolve({
        read: async () => v.parse(Description, await ask({ op: 'describe' })),
        write: async (path, value) => v.parse(Written, await ask({ op: 'set', path, value })).value,
        ping: async () => {
          await ask({ op: 'ping' })
        },
        close: () => end('Closed'),
      })
    })
  })
