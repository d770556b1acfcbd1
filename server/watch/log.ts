import { join } from 'node:path'
import { multistream, pino } from 'pino'
import roll from 'pino-roll'

/** Lines of JSON: a file of so many MB is turned over, so many old ones stay. */
const megabytes = 5
const oldFiles = 10

const streams = multistream([])
const isTest = process.env.VITEST !== undefined

/** A failed statement of the database comes with all that it was to store: its beginning tells enough. */
const longest = 500
function short(error: Error) {
  const words = new Set<string>()
  for (let at: unknown = error; at instanceof Error && words.size < 5; at = at.cause)
    words.add(at.message.length > longest ? `${at.message.slice(0, longest)} …` : at.message)
  const stack = (error.stack ?? '').split('\n').filter(line => /^\s+at /.test(line)).join('\n')
  return { type: error.name, message: [...words].join(': '), stack }
}

/** The server's log, for machines: one JSON object a line. What is wrong is said on the terminal as well. */
export const log = pino({ level: isTest ? 'fatal' : 'info', base: null, serializers: { err: short } }, streams)

/** A line of the log as a sentence; the stack stays in the file. */
function sayOnTerminal(line: string) {
  const { msg, err } = JSON.parse(line) as { msg: string, err?: { message: string, stack: string } }
  process.stderr.write(`${msg}${err ? `: ${err.message}\n${err.stack}` : ''}\n`)
}
streams.add({ level: 'warn', stream: { write: sayOnTerminal } })

/** Begins to keep the log as files under the folder of `KOVRIN_LOGS`; without it only the terminal is told. */
export async function openLog(folder = process.env.KOVRIN_LOGS): Promise<void> {
  if (!folder) return
  const stream = await roll({
    file: join(folder, 'server'),
    extension: '.log',
    size: `${megabytes}m`,
    limit: { count: oldFiles, removeOtherLogFiles: true },
    mkdir: true,
  })
  // a full disk must not end the server: the terminal is still told
  stream.on('error', (error: Error) => process.stderr.write(`The log cannot be written: ${error.message}\n`))
  streams.add({ level: 'info', stream })
}
