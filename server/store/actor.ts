import { and, asc, eq, gt } from 'drizzle-orm'
import {
  hear,
  planning,
  type Change,
  type Documents,
  type Edit,
  type Hand,
  type Mirror,
  type EditRefusal,
} from '../../core/documents'
import { equal } from '../../core/units'
import { inTurns } from '../utils/turns'
import { onBus, onBusBack, serverId, tellServers } from './bus'
import { edits, gauge } from '../watch/metrics'
import { database, onDatabaseLost, type Transaction } from './client'
import { changes, documents, sites, type UndoState } from './schema'
import { writeChanges, type Mark, type Row } from './write'
import { message } from '../../core/words'

/** Who does something, as what part of what, and whether it can be taken back. */
export interface Doing {
  who: string
  person: string
  gesture: string | null
  origin: Change['origin']
  live: boolean
  undo: UndoState
}

/**
 * What a job makes of the documents as they stand: changes, or the reason for none. It may be asked again after
 * a newer change.
 */
export type Prepared
  = | {
    ok: true
    parts: { edits: readonly Edit[], doing: Doing }[]
    hand: Hand
    marks?: Mark[]
    also?: (tx: Transaction) => Promise<void>
  }
  | ({ ok: false } & EditRefusal)
export type Prepare = (now: Documents, number: number) => Prepared | Promise<Prepared>
export type Outcome = { ok: true, changes: Change[], documents: Documents } | ({ ok: false } & EditRefusal)

interface Job {
  prepare: Prepare
  resolve: (outcome: Outcome) => void
  reject: (error: unknown) => void
}
export type ChangesListener = (changes: readonly Change[], documents: Documents) => void

/** Something else came first: the transaction is taken back, and what was in it is prepared anew. */
export class Quicker extends Error {}

/** Most jobs that go into one commit. */
const mostTogether = 200
const mostTries = 20
/** Most changes that are read at once. */
const mostAtOnce = 1000
const triesAgainAfter = 1000
/** Milliseconds in which the answer to what this server stored has come, when it comes. */
const answerTime = 100

export const asChange = (row: typeof changes.$inferSelect): Change => ({
  number: row.number,
  document: row.document,
  path: row.path,
  ...('old' in row.value ? { old: row.value.old } : {}),
  ...('new' in row.value ? { new: row.value.new } : {}),
  gesture: row.gesture,
  who: row.who,
  person: row.person,
  origin: row.origin,
  live: row.live,
  at: row.at.toISOString(),
})

/** Changes of a site after a number, in order, at most `most`. */
export async function changesAfter(site: string, number: number, most = 5000): Promise<Change[]> {
  const rows = await database()
    .select()
    .from(changes)
    .where(and(eq(changes.siteId, site), gt(changes.number, number)))
    .orderBy(asc(changes.number))
    .limit(most)
  return rows.map(asChange)
}

/**
 * One site as this server knows it: the only way to its documents. Jobs are done in order; those that wait
 * while others are written go into the next commit together. Every change that is stored, here or by another server,
 * is told to the listeners once and in order. What is known stays true through a fault of the database, since it was
 * stored; what was stored meanwhile is read as soon as that answers.
 */
export class SiteActor {
  private mirror: Mirror | null = null
  /** How often what was known was let go of. */
  private drops = 0
  private reading: Promise<Mirror | null> | null = null
  private readonly queue: Job[] = []
  private busy = false
  private following: Promise<void> | null = null
  /** Something may have been stored since the reading or fetching that goes on has begun. */
  private more = false
  private retry: NodeJS.Timeout | undefined
  private readonly listeners = new Set<ChangesListener>()
  private readonly renewals = new Set<() => void>()

  constructor(readonly site: string) {}

  /** The documents as they are stored; null where there is no such site. */
  async read(): Promise<Mirror | null> {
    return this.mirror ?? (this.reading ??= this.readAll())
  }

  private async readAll(): Promise<Mirror | null> {
    try {
      for (;;) {
        const { drops } = this
        this.more = false
        const read = await this.readStored()
        // put back as a whole meanwhile: what was just read is of before
        if (drops !== this.drops) continue
        this.mirror = read
        if (!read) forget(this)
        if (!read || !this.more) return read
        this.keepUp()
        await this.following
        return this.mirror ?? read
      }
    }
    finally {
      // here and not a moment later: whoever asks in between would get what is over
      this.reading = null
    }
  }

  private async readStored(): Promise<Mirror | null> {
    return database().transaction(
      async (tx) => {
        const [site] = await tx.select({ number: sites.number }).from(sites).where(eq(sites.id, this.site))
        if (!site) return null
        const rows = await tx
          .select({ key: documents.key, content: documents.content })
          .from(documents)
          .where(eq(documents.siteId, this.site))
        return { number: site.number, documents: Object.fromEntries(rows.map(r => [r.key, r.content])) }
      },
      { isolationLevel: 'repeatable read' },
    )
  }

  /** The documents as this server knows them now; null where nothing was read yet. */
  get known(): Documents | null {
    return this.mirror?.documents ?? null
  }

  /** True where nobody waits for it and nobody listens. */
  get isIdle(): boolean {
    return !this.busy && !this.queue.length && !this.listeners.size && !this.renewals.size
  }

  /** Number of the newest change that this server knows; 0 before anything was read. */
  get number(): number {
    return this.mirror?.number ?? 0
  }

  listen(listener: ChangesListener): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  /** Does a job in its turn; refusals come back as outcomes, faults of the database as rejections. */
  do(prepare: Prepare): Promise<Outcome> {
    return new Promise((resolve, reject) => {
      this.queue.push({ prepare, resolve, reject })
      if (!this.busy) void this.work()
    })
  }

  /** Takes in all that was stored before it is called, by whatever server. */
  follow(): Promise<void> {
    this.more = true
    // what was never read has nothing to follow; a reading that goes on sees to it
    if (!this.mirror) return Promise.resolve()
    return this.following ??= this.fetch()
  }

  /** Follows, and tries again until the database answers: for who does not wait for it. */
  keepUp() {
    clearTimeout(this.retry)
    this.follow().catch(() => {
      this.retry = setTimeout(() => this.keepUp(), triesAgainAfter).unref()
    })
  }

  private async fetch() {
    try {
      while (this.more && this.mirror) {
        this.more = false
        const { drops, mirror: { number } } = this
        const fresh = await changesAfter(this.site, number, mostAtOnce)
        if (drops !== this.drops) continue
        if (fresh.length === mostAtOnce) this.more = true
        if (fresh.length) this.take(fresh)
        else await this.checkNumber(number)
      }
    }
    finally {
      this.following = null
    }
  }

  /** A database that knows less than was known, or no such site, was put back: nothing that is known holds then. */
  private async checkNumber(known: number) {
    const [site] = await database().select({ number: sites.number }).from(sites).where(eq(sites.id, this.site))
    if (!site || site.number < known) this.renew()
  }

  private take(fresh: readonly Change[]) {
    if (!this.mirror) {
      // what is being read just now may be older than these
      this.more = true
      return
    }
    const heard = hear(this.mirror, fresh)
    if (heard.state === 'gap') return this.renew()
    if (heard.state !== 'taken') return
    this.mirror = heard.mirror
    for (const listener of this.listeners) listener(heard.changes, heard.mirror.documents)
  }

  /** Tells whoever follows that nothing of what they know holds any more. */
  renew() {
    this.mirror = null
    this.drops++
    for (const renewed of this.renewals) renewed()
  }

  /** Calls back when the site was taken away or put back as a whole. */
  onRenewal(renewed: () => void): () => void {
    this.renewals.add(renewed)
    return () => this.renewals.delete(renewed)
  }

  private async work() {
    this.busy = true
    try {
      for (let tries = 0; this.queue.length;) {
        const jobs = this.queue.splice(0, mostTogether)
        const rest = await this.together(jobs)
        tries = rest.length === jobs.length ? tries + 1 : 0
        if (tries > mostTries)
          for (const job of rest) job.reject(new Error('Another server changes this site all the time.'))
        else this.queue.unshift(...rest)
      }
    }
    finally {
      this.busy = false
    }
  }

  /** Does jobs as one commit; gives those that must be done again because another server was quicker. */
  private async together(jobs: readonly Job[]): Promise<Job[]> {
    const accepted: { job: Job, changes: Change[] }[] = []
    try {
      const base = await this.read()
      if (!base) {
        for (const job of jobs)
          job.resolve({ ok: false, status: 'missing', why: message('site.noSuch') })
        return []
      }
      let now = base
      const rows: Row[] = []
      const marks: Mark[] = []
      const also: ((tx: Transaction) => Promise<void>)[] = []
      for (const job of jobs) {
        const made = await this.prepared(job, now)
        if (!made) continue
        accepted.push({ job, changes: made.rows.map(r => r.change) })
        rows.push(...made.rows)
        marks.push(...made.marks)
        if (made.also) also.push(made.also)
        now = made.mirror
      }
      const write = (tx: Parameters<typeof writeChanges>[0]) =>
        writeChanges(tx, this.site, base.number, rows, now.documents, marks)
      if (rows.length || also.length) {
        const stored = also.length ? await this.withMore(also, rows.length ? write : null) : await write(database())
        if (!stored) {
          await this.follow()
          return accepted.map(a => a.job)
        }
      }
      const origins = new Map<Change['origin'], number>()
      for (const { change } of rows) origins.set(change.origin, (origins.get(change.origin) ?? 0) + 1)
      for (const [origin, count] of origins) edits.inc({ origin }, count)
      this.take(rows.map(r => r.change))
      for (const { job, changes } of accepted) job.resolve({ ok: true, changes, documents: now.documents })
      return []
    }
    catch (error) {
      this.keepUp() // it may have been stored all the same
      for (const job of accepted.length ? accepted.map(a => a.job) : jobs) job.reject(error)
      return []
    }
  }

  /** Changes with what goes into the same commit; false, and nothing stored, when another server was quicker. */
  private async withMore(
    also: readonly ((tx: Transaction) => Promise<void>)[],
    write: ((tx: Transaction) => Promise<boolean>) | null,
  ): Promise<boolean> {
    try {
      await database().transaction(async (tx) => {
        if (write && !(await write(tx))) throw new Quicker()
        for (const job of also) await job(tx)
      })
      return true
    }
    catch (error) {
      if (error instanceof Quicker) return false
      throw error
    }
  }

  private async prepared(job: Job, now: Mirror) {
    let made: Prepared
    try {
      made = await job.prepare(now.documents, now.number)
    }
    catch (error) {
      job.reject(error)
      return null
    }
    if (!made.ok) {
      job.resolve(made)
      return null
    }
    let mirror = now
    const rows: Row[] = []
    for (const { edits, doing } of made.parts) {
      const planned = await inTurns(planning(mirror.documents, edits, made.hand))
      if (!planned.ok) {
        job.resolve(planned)
        return null
      }
      const { number } = mirror
      await inTurns(numbering(planned.edits, doing, number, rows))
      mirror = { number: rows.at(-1)?.change.number ?? number, documents: planned.documents }
    }
    return { rows, mirror, marks: made.marks ?? [], also: made.also }
  }
}

/** Adds the rows of edits that change something, numbered on. */
function* numbering(planned: readonly Edit[], { undo, ...rest }: Doing, number: number, rows: Row[]) {
  const at = new Date().toISOString()
  for (const edit of planned) {
    if (!equal(edit.old, edit.new)) rows.push({ change: { ...edit, ...rest, at, number: ++number }, undo })
    yield
  }
}

const actors = new Map<string, SiteActor>()
gauge('kovrin_sites_held', 'Sites of which this server holds what is stored', () => actors.size)

/** The one actor of a site in this server. */
export function actorOf(site: string): SiteActor {
  const actor = actors.get(site) ?? new SiteActor(site)
  actors.set(site, actor)
  return actor
}

/** Nothing is kept of a site that is not there. */
function forget(actor: SiteActor) {
  if (actor.isIdle && actors.get(actor.site) === actor) actors.delete(actor.site)
}

onBus((message) => {
  const mine = message.from === serverId
  if (message.kind === 'renewed' && !mine) actors.get(message.site)?.renew()
  if (message.kind !== 'changed') return
  const look = () => {
    const actor = actors.get(message.site)
    if (actor && actor.number < message.number) actor.keepUp()
  }
  // what this server stored it knows itself, unless the answer was lost
  if (mine) setTimeout(look, answerTime).unref()
  else look()
})
/** After a lost connection nothing that was told meanwhile is known: read it. */
const catchUp = () => {
  for (const actor of actors.values()) actor.keepUp()
}
onBusBack(catchUp)
onDatabaseLost(catchUp)

/** A site was taken away or put back as a whole: what this server and the others know of it holds no more. */
export async function renewSite(site: string) {
  actors.get(site)?.renew()
  await tellServers({ kind: 'renewed', site, from: serverId })
}

/** For tests: forgets every site. */
export const forgetActors = () => actors.clear()
