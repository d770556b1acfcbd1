// What Nitro has for its own entries and does not describe.
declare module '#nitro-internal-pollyfills'
declare module 'nitropack/runtime/internal' {
  import type { Server } from 'node:http'
  import type { NitroApp } from 'nitropack'

  export function setupGracefulShutdown(server: Server, app: NitroApp): void
  export function trapUnhandledNodeErrors(): void
}
declare module 'pino-roll' {
  import type { Writable } from 'node:stream'

  export default function roll(options: {
    file: string
    extension: string
    size: string
    limit: { count: number, removeOtherLogFiles: boolean }
    mkdir: boolean
  }): Promise<Writable>
}
