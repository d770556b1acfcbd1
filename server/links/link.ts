import type { Capability, ParameterPath, ParameterValue, Settings } from '../../core/rig'
import type { DeviceConnection, DeviceDriver } from './driver'

/**
 * searching: no one answers yet; reading: connected, taking over its settings; live: in step; lost: was live,
 * is gone.
 */
export interface LinkState {
  state: 'searching' | 'reading' | 'live' | 'lost'
  why: string | null
  since: string
}

export interface LinkEvents {
  state(link: LinkState): void
  /** What the device holds, read whole; awaited before the link counts as live. */
  read(capability: Capability, settings: Settings): Promise<void>
  changed(path: ParameterPath, value: ParameterValue): void
}

const retryAfter = [250, 500, 1000, 2000]
const pingEvery = 2000

/**
 * Holds one device's connection open for ever: connects, reads everything, stays in step, and starts anew when
 * it is lost.
 * `address` is asked anew at every try, since a stand-in may come back elsewhere.
 */
export function createLink(driver: DeviceDriver, address: () => string | null, events: LinkEvents) {
  let state: LinkState = { state: 'searching', why: null, since: new Date().toISOString() }
  let connection: DeviceConnection | null = null
  let tries = 0
  let stopped = false
  let everLive = false
  let timer: NodeJS.Timeout | undefined

  const enter = (next: LinkState['state'], why: string | null = null) => {
    if (state.state === next && state.why === why) return
    state = { state: next, why, since: new Date().toISOString() }
    events.state(state)
  }

  const later = (why: string) => {
    connection?.close()
    connection = null
    if (stopped) return
    enter(everLive ? 'lost' : 'searching', why)
    clearTimeout(timer)
    timer = setTimeout(open, retryAfter[Math.min(tries++, retryAfter.length - 1)])
  }

  const open = async () => {
    const at = address()
    if (!at) return later('It has no address')
    try {
      const opened = await driver(at, { changed: events.changed, lost: later })
      if (stopped) return opened.close()
      connection = opened
      enter('reading')
      const found = await opened.read()
      await events.read(found.capability, found.settings)
      if (connection !== opened) return
      tries = 0
      everLive = true
      enter('live')
      beat(opened)
    }
    catch (error) {
      later((error as Error).message)
    }
  }

  /** A dead cable closes nothing: ask now and then whether anybody is there. */
  const beat = (opened: DeviceConnection) => {
    timer = setTimeout(() => {
      opened.ping().then(
        () => {
          if (connection === opened) beat(opened)
        },
        () => {},
      )
    }, pingEvery)
  }

  void open()
  return {
    get state() {
      return state
    },
    /** The open connection, or null while there is none to speak to. */
    get connection() {
      return state.state === 'live' ? connection : null
    },
    stop() {
      stopped = true
      clearTimeout(timer)
      connection?.close()
    },
  }
}

export type Link = ReturnType<typeof createLink>
