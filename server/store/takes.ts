import { randomUUID } from 'node:crypto'
import { and, eq, gt, inArray } from 'drizzle-orm'
import {
  allOf,
  contentOf,
  rigOf,
  soundingToo,
  type Documents,
  type Edit,
  type Take,
  type TakeInfo,
  type Timing,
} from '../../core/documents'
import {
  isOn,
  parametersOf,
  partOf,
  pathsThen,
  snapshotOf,
  testFeed, unknownFeed,
  type Endpoint,
  type Then,
} from '../../core/rig'
import { canonical } from '../../core/units'
import { actorOf, type Doing, type Outcome, type Prepared } from './actor'
import { database } from './client'
import { keepContents } from './contents'
import { byHand, type Asker } from './edits'
import { hashOfText } from './hash'
import { writeLog } from './log'
import { changes, takeData } from './schema'
import { message, type Message } from '../../core/words'

/** What a page says of a take that it wants to keep. */
export interface NewTake {
  /** The asker's own; of the same one only the first is kept. */
  id?: string | undefined
  source: string
  position: string
  only: Endpoint | null
  /** The feed that was measured. */
  feed: string
  info: TakeInfo
  timing: Timing
  name?: string | undefined
  /** Number of the site's newest change when the measuring began. */
  number: number
}

/**
 * Names of the devices on a part's path whose settings changed after a number; those that a take does not care
 * about apart.
 */
async function changedSince(
  site: string,
  now: Documents,
  part: Then,
  sources: readonly string[],
  only: Endpoint | null,
  number: number,
) {
  const devices = Object.keys(part.rig.devices)
  if (!devices.length) return []
  const told = devices.map(id => (contentOf(now, 'held', id) ? `held/${id}` : `settings/${id}`))
  const rows = await database()
    .select()
    .from(changes)
    .where(
      and(eq(changes.siteId, site), gt(changes.number, number), inArray(changes.document, [...told, 'wiring'])),
    )
  const on = sources.flatMap(source => pathsThen(part, source, only))
  const moved = rows.flatMap(({ document, path, value }) => {
    if (document === 'wiring') return ['the cables']
    const id = document.slice(document.indexOf('/') + 1)
    const { capability } = part.rig.devices[id]!
    const parameter = parametersOf(capability).get(path)
    if (path !== '' && !parameter) return []
    if (parameter && !on.some(p => isOn(p, id, parameter))) return []
    if (parameter && !parameter.kind.stales(value.old ?? parameter.neutral, value.new ?? parameter.neutral))
      return []
    return [contentOf(now, 'device', id)!.name]
  })
  return [...new Set(moved)]
}

function takeName(now: Documents, { source, position, name }: NewTake, also: readonly string[]): string {
  if (name) return name
  const count = allOf(now, 'take').filter(t => t.source === source && t.position === position).length
  const others = also.map(id => contentOf(now, 'source', id)!.name)
  const beside = others.length > 2 ? [`${others.length} more`] : others
  const names = [
    [contentOf(now, 'source', source)!.name, ...beside].join(' + '),
    contentOf(now, 'position', position)!.name,
  ]
  return `${names.join(' · ').slice(0, 100)}${count ? `, take ${count + 1}` : ''}`
}

/**
 * A take that is there from now on; it is made deleted, then brought in, so that undo can take it out of the
 * ledger again.
 */
function bringIn(take: Take, asker: Asker): { edits: Edit[], doing: Doing }[] {
  const document = `take/${take.id}`
  return [
    { edits: [{ document, path: '', new: { ...take, deleted: true } }], doing: byHand(asker, null, false) },
    { edits: [{ document, path: '/deleted', old: true, new: false }], doing: byHand(asker, randomUUID(), false) },
  ]
}

const missing = (why: Message) => ({ ok: false, status: 'missing', why }) as const

/**
 * Stores one take whole, with the snapshot of the rig that it was made with. Refused when settings on its path
 * have changed since it was
 * begun: a curve must never be filed under settings it was not made with. One whose id is known already is answered as
 * it was kept.
 */
export async function keepTake(
  site: string,
  wanted: NewTake,
  data: Buffer,
  asker: Asker,
): Promise<Outcome & { take?: Take }> {
  const { source, position, only, info, timing } = wanted
  let take: Take | undefined
  const outcome = await actorOf(site).do(async (now): Promise<Prepared> => {
    const of = contentOf(now, 'source', source)
    const at = contentOf(now, 'position', position)
    const info0 = contentOf(now, 'site')
    if (!info0 || info0.deleted) return missing(message('site.noSuch'))
    if (!of) return missing(message('take.noSource', { site: info0.name }))
    if (!at) return missing(message('take.noPosition', { site: info0.name }))
    const before = wanted.id === undefined ? undefined : contentOf(now, 'take', wanted.id)
    if (before) {
      if (before.source !== source || before.position !== position)
        return { ok: false, status: 'refused', why: message('take.twice') }
      take = before
      return { ok: true, hand: 'server', parts: [] }
    }
    const measured = info.method === 'live' || info.method === 'sweep'
    const rig = rigOf(now, 'held')
    const { feeds } = contentOf(now, 'wiring')!
    const feed = wanted.feed === unknownFeed ? undefined : feeds[wanted.feed] ?? feeds[testFeed]
    // what was not measured now has nothing to do with the settings of now
    const also = measured && feed && !only
      ? soundingToo(rig, feed.from, allOf(now, 'source').map(s => s.id), source)
      : []
    const part = measured && feed ? partOf(rig, feed.from, source, ...also) : null
    if (part) {
      const moved = await changedSince(site, now, part, [source, ...also], only, wanted.number)
      if (moved.length) {
        const why = message('take.settingsChanged', { sources: moved.join(' and ') })
        return { ok: false, status: 'overtaken', why, now: { document: 'wiring', path: '', value: null } }
      }
    }
    const shared: Record<string, unknown> = {}
    const share = (text: string) => {
      const hash = hashOfText(text)
      shared[hash] = JSON.parse(text)
      return hash
    }
    const snapshot = part ? share(canonical(snapshotOf(part, share))) : null
    const kept: Take = {
      id: wanted.id ?? randomUUID(),
      source,
      position,
      only,
      ...(also.length ? { also } : {}),
      name: takeName(now, wanted, also),
      note: '',
      hue: null,
      offset: 0,
      shift: 0,
      place: null,
      deleted: false,
      who: asker.who,
      at: new Date().toISOString(),
      info,
      timing,
      snapshot,
      geometry: measured ? { cabinets: of.elements.map(e => e.place), microphone: at.place } : null,
    }
    take = kept
    return {
      ok: true,
      hand: 'server',
      parts: bringIn(kept, asker),
      also: async (tx) => {
        await keepContents(tx, shared)
        await tx.insert(takeData).values({ siteId: site, id: kept.id, data })
      },
    }
  })
  if (!outcome.ok || !take) return outcome
  if (outcome.changes.length) await writeLog(site, asker.who, message('log.take.saved', { name: take.name }))
  return { ...outcome, take }
}

/** Bytes of a take (see core/formats/take), or null. */
export async function readTakeData(site: string, take: string): Promise<Buffer | null> {
  const [row] = await database()
    .select({ data: takeData.data })
    .from(takeData)
    .where(and(eq(takeData.siteId, site), eq(takeData.id, take)))
  return row?.data ?? null
}

/** A second take of the same data, to be worked on apart. */
export async function duplicateTake(site: string, id: string, asker: Asker): Promise<Outcome & { take?: Take }> {
  const data = await readTakeData(site, id)
  let copy: Take | undefined
  const outcome = await actorOf(site).do((now): Prepared => {
    const take = contentOf(now, 'take', id)
    if (!take || take.deleted || !data) return missing(message('take.noSuch'))
    const made: Take = { ...take, id: randomUUID(), name: `${take.name} copy`.slice(0, 120), who: asker.who }
    copy = made
    return {
      ok: true,
      hand: 'server',
      parts: bringIn(made, asker),
      also: async (tx) => {
        await tx.insert(takeData).values({ siteId: site, id: made.id, data })
      },
    }
  })
  return outcome.ok && copy ? { ...outcome, take: copy } : outcome
}
