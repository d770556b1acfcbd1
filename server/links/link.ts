import type { LinkState } from '../../core/documents'
import { equal } from '../../core/units'
import type { DeviceAct, Housekeeping, ParameterPath, Settings } from '../../core/rig'
import type { DeviceConnection, DeviceDriver, DeviceReading, Told } from './driver'

export type Phase = LinkState['state']

/** What a link tells its owner, who keeps it. */
export interface LinkEvents {
  state(state: Phase, why: string | null): void
  /**
   * What the device holds, read whole; awaited before the link counts as live. Values of `passing` are on their way up
   * to a wish: what was read of them holds only for a moment.
   */
  read(reading: DeviceReading, passing: ReadonlySet<ParameterPath>): Promise<void>
  /** What it tells of itself besides settings. */
  housekeeping(state: Housekeeping): void
  /** Values in the order in which the device told them; the next batch waits for this one to be kept. */
  held(told: readonly Told[]): Promise<void>
}

/** What became of a wish. */
export type SendOutcome = { ok: true, value: unknown } | { ok: false, why: string }

const retryAfter = [250, 500, 1000, 2000]
const pingEvery = 2000
const compareEvery = 30_000
/** So much more seldom while nobody looks. */
const seldom = 10
/** Most values that are written in one message. */
const mostTogether = 64

interface Wish {
  value: unknown
  settle: ((outcome: SendOutcome) => void)[]
}

/**
 * One device's connection, held open for ever: connects, reads everything, stays in step, and starts anew when
 * it is lost. Wishes go out one batch after the other, the newest wish of a parameter in place of an older one that has
 * not left yet; what the device tells is kept in the order in which it was told. `address` is asked anew at every try,
 * since a stand-in may come back elsewhere. While nobody looks (`isWatched`) it is asked more seldom how the device is.
 */
export class Link {
  private connection: DeviceConnection | null = null
  /** Counts tries: what an earlier one opens, tells or loses counts no more. */
  private trial = 0
  private phase: Phase = 'searching'
  private why: string | null = null
  private tries = 0
  private stopped = false
  private everLive = false
  private timer: NodeJS.Timeout | undefined
  private compared = Date.now()
  /** It was asked how it is and has not answered yet. */
  private asking = false
  private readonly wishes = new Map<ParameterPath, Wish>()
  /** Values on the way up to a wish, by their paths: what the device tells of them is no news. */
  private readonly ramps = new Map<ParameterPath, readonly unknown[]>()
  /** What becomes of the newest wish of each parameter that is not settled. */
  private readonly newest = new Map<ParameterPath, Promise<SendOutcome>>()
  private sending = false
  private told: Told[] = []
  private keeping: Promise<void> | null = null

  constructor(
    private readonly driver: DeviceDriver,
    private readonly address: () => Promise<string | null>,
    private readonly events: LinkEvents,
    private readonly isWatched: () => boolean = () => true,
  ) {
    void this.open()
  }

  get state(): Phase {
    return this.phase
  }

  get reason(): string | null {
    return this.why
  }

  private enter(phase: Phase, why: string | null = null) {
    if (this.phase === phase && this.why === why) return
    this.phase = phase
    this.why = why
    this.events.state(phase, why)
  }

  private later(why: string) {
    this.trial++
    this.connection?.close()
    this.connection = null
    this.fail('The device was lost while sending: the change is kept as a draft.')
    if (this.stopped) return
    this.enter(this.everLive ? 'lost' : 'searching', why)
    clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.open(), retryAfter[Math.min(this.tries++, retryAfter.length - 1)])
  }

  private async open() {
    const trial = ++this.trial
    const counts = () => trial === this.trial
    try {
      const at = await this.address()
      if (!counts()) return
      if (!at) return this.later('It has no address')
      const opened = await this.driver(at, {
        held: told => counts() && this.hear(told),
        housekeeping: state => counts() && this.connection && this.events.housekeeping(state),
        lost: why => counts() && this.later(why),
      })
      if (!counts()) return opened.close()
      this.connection = opened
      this.enter('reading')
      await this.readAll(opened)
      if (this.connection !== opened) return
      this.tries = 0
      this.everLive = true
      this.enter('live')
      this.beat(opened)
      void this.send()
    }
    catch (error) {
      if (counts()) this.later((error as Error).message)
    }
  }

  private async readAll(opened: DeviceConnection) {
    await this.kept()
    const reading = await opened.read()
    if (this.connection !== opened) throw new Error('The device was lost while it was read')
    // what was told before the description is older than it, and is kept first; what comes after is kept later
    const older = this.told.splice(0)
    const passing = new Set(this.ramps.keys())
    await Promise.all([
      older.length ? this.events.held(older) : null,
      this.events.read(reading, passing),
    ])
    this.compared = Date.now()
  }

  /**
   * A dead cable closes nothing: ask now and then whether anybody is there, and whether it still holds what it
   * is thought to.
   */
  private beat(opened: DeviceConnection, soon = false) {
    const pace = this.isWatched() ? 1 : seldom
    this.timer = setTimeout(() => {
      const due = Date.now() - this.compared > (this.isWatched() ? compareEvery : compareEvery * seldom)
      this.asking = true
      const asked = due ? this.readAll(opened) : opened.ping()
      asked.finally(() => (this.asking = false)).then(
        () => {
          if (this.connection === opened) this.beat(opened)
        },
        (error: Error) => {
          if (this.connection === opened) this.later(error.message)
        },
      )
    }, soon ? 0 : pingEvery * pace)
  }

  /** Somebody looks again: asks at once how the device is. */
  wake() {
    const { connection } = this
    if (!connection || this.phase !== 'live' || this.asking) return
    clearTimeout(this.timer)
    this.beat(connection, true)
  }

  /** Reads the device again and keeps what it says: what was told meanwhile may have been lost. */
  async compare(): Promise<void> {
    const { connection } = this
    if (connection && this.phase === 'live') await this.readAll(connection)
  }

  /** Has it do something; resolves with why it does not, or null when it is done and all that it told is kept. */
  async act(act: DeviceAct): Promise<string | null> {
    const { connection } = this
    if (!connection || this.phase !== 'live') return 'The device is not connected.'
    const refused = await connection.act(act).catch((error: Error) => error.message)
    // one that tells of no changes is asked what a preset has made of it
    if (act.act === 'recall') await this.compare().catch(() => {})
    await this.kept().catch(() => {})
    return refused
  }

  /** The settings that a preset would make; null where that is not told. */
  async presetAt(slot: number): Promise<Settings | null> {
    const { connection } = this
    return connection && this.phase === 'live' ? await connection.presetAt(slot).catch(() => null) : null
  }

  private hear(told: readonly Told[]) {
    this.told.push(...told.filter(t => t.by !== 'sent' || !this.ramps.get(t.path)?.some(v => equal(v, t.value))))
    void this.kept().catch((error: Error) => this.later(`What it told could not be kept: ${error.message}`))
  }

  /** Resolves when everything that was told so far is kept. */
  private kept(): Promise<void> {
    this.keeping ??= this.keep().finally(() => {
      this.keeping = null
    })
    return this.keeping
  }

  private async keep() {
    while (this.told.length) await this.events.held(this.told.splice(0))
  }

  /**
   * Wishes a value into the device; settles when the device holds it, or says why not. It is reached by way of the
   * values of `ramp`, one after the other. A newer wish of the same parameter takes its place: both settle alike.
   */
  wish(path: ParameterPath, value: unknown, ramp: readonly unknown[] = []): Promise<SendOutcome> {
    const outcome: Promise<SendOutcome> = this.climb(path, value, ramp).then((own) => {
      const newest = this.newest.get(path)
      if (newest !== outcome) return newest ?? own
      this.newest.delete(path)
      return own
    })
    this.newest.set(path, outcome)
    return outcome
  }

  private async climb(path: ParameterPath, value: unknown, ramp: readonly unknown[]): Promise<SendOutcome> {
    // the newest wish of a parameter ends a ramp that an older one is on
    this.ramps.delete(path)
    if (!ramp.length) return this.put(path, value)
    this.ramps.set(path, ramp)
    let outcome: SendOutcome = { ok: true, value }
    for (const step of [...ramp, value]) {
      outcome = await this.put(path, step)
      // a newer wish of it goes its own way: nothing of this one may come after it
      if (this.ramps.get(path) !== ramp) return outcome
      if (!outcome.ok) break
    }
    this.ramps.delete(path)
    // how far it came is not known otherwise
    if (!outcome.ok) await this.compare().catch(() => {})
    return outcome
  }

  private put(path: ParameterPath, value: unknown): Promise<SendOutcome> {
    if (this.phase !== 'live' || this.stopped) {
      return Promise.resolve({ ok: false, why: 'The device is not connected: the change is kept as a draft.' })
    }
    return new Promise((settle) => {
      const waiting = this.wishes.get(path)
      this.wishes.set(path, { value, settle: [...(waiting?.settle ?? []), settle] })
      void this.send()
    })
  }

  private async send() {
    if (this.sending) return
    this.sending = true
    try {
      while (this.wishes.size && this.connection && this.phase === 'live') {
        const batch = [...this.wishes].slice(0, mostTogether)
        for (const [path] of batch) this.wishes.delete(path)
        await this.sendBatch(this.connection, batch)
      }
    }
    finally {
      this.sending = false
    }
  }

  private async sendBatch(connection: DeviceConnection, batch: readonly [ParameterPath, Wish][]) {
    const settle = (path: ParameterPath, outcome: SendOutcome) => {
      for (const done of batch.find(([p]) => p === path)?.[1].settle ?? []) done(outcome)
    }
    try {
      const written = await connection.write(batch.map(([path, { value }]) => [path, value] as const))
      await this.kept()
      const answered = new Set(written.map(w => w.path))
      const silent = 'The device did not answer for it: it is kept as a draft.'
      for (const [path] of batch) if (!answered.has(path)) settle(path, { ok: false, why: silent })
      for (const w of written) {
        settle(
          w.path,
          'refused' in w ? { ok: false, why: `The device refused: ${w.refused}` } : { ok: true, value: w.value },
        )
      }
    }
    catch (error) {
      for (const [path] of batch)
        settle(path, { ok: false, why: `Not sent: ${(error as Error).message}. It is kept as a draft.` })
    }
  }

  private fail(why: string) {
    for (const { settle } of this.wishes.values()) for (const done of settle) done({ ok: false, why })
    this.wishes.clear()
  }

  stop() {
    this.stopped = true
    this.trial++
    clearTimeout(this.timer)
    this.connection?.close()
    this.connection = null
    this.fail('The link was ended: the change is kept as a draft.')
  }
}
