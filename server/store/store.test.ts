import { and, eq, gt, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import { contentOf, type Edit } from '../../core/documents'
import { actorOf, changesAfter, SiteActor, type Prepared } from './actor'
import { database } from './client'
import { makeEdits } from './edits'
import { changes, documents, sites } from './schema'
import { undo } from './undo'
import { ann, ben, closeTestDatabase, demoSite, documentsOf, openTestDatabase } from '../testing/database'
import { Refusal } from '../../core/words'

beforeAll(openTestDatabase)
afterAll(closeTestDatabase)

const gain = (old: number, value: number, output = 6): Edit => ({
  document: 'settings/processor',
  path: `/outputs/${output}/gain`,
  old,
  new: value,
})
const byHand = (edits: Edit[], gesture: string | null = crypto.randomUUID()) => ({ edits, gesture, live: false })
const gainIn = async (site: string, output = 6) =>
  contentOf(await documentsOf(site), 'settings', 'processor')?.[`/outputs/${output}/gain`] ?? 0
const moved = (x: number): Edit => ({ document: 'source/main-l', path: '/elements/0/place/x', old: 3, new: x })

describe('edits', () => {
  it('are kept as the device would hold them, numbered one by one, with who, old and new', async () => {
    const site = await demoSite()
    const outcome = await makeEdits(site, byHand([gain(0, -9.26), gain(0, -3, 7)]), ann)
    expect(outcome).toMatchObject({
      ok: true,
      changes: [
        { number: 1, new: -9.3, who: 'Ann', origin: 'edit' },
        { number: 2, new: -3 },
      ],
    })
    expect(await gainIn(site)).toBe(-9.3)
    const [row] = await database().select().from(sites).where(eq(sites.id, site))
    expect(row!.number).toBe(2)
  })
  it('as many as the contract allows in one request are kept in their order, and others have their turn', async () => {
    const site = await demoSite()
    const value = (n: number) => -(n % 40) - 1
    const many = Array.from({ length: 5000 }, (_, n) => gain(n < 16 ? 0 : value(n - 16), value(n), n % 16))
    const turns: number[] = []
    const others = setInterval(() => turns.push(performance.now()), 1)
    const outcome = await makeEdits(site, byHand(many), ann)
    clearInterval(others)
    if (!outcome.ok) throw new Refusal(outcome.why)
    expect(outcome.changes.map(c => c.new)).toEqual(many.map(e => e.new))
    expect(await gainIn(site, 7)).toBe(value(4999))
    expect(turns.length).toBeGreaterThan(3)
  })
  it('against an older value are refused with the newer one, and nothing of them is kept', async () => {
    const site = await demoSite()
    await makeEdits(site, byHand([gain(0, -5)]), ann)
    const late = await makeEdits(site, byHand([gain(0, -1, 7), gain(0, -8)]), ben)
    expect(late).toMatchObject({ ok: false, status: 'overtaken', now: { path: '/outputs/6/gain', value: -5 } })
    expect([await gainIn(site), await gainIn(site, 7)]).toEqual([-5, 0])
    expect(await changesAfter(site, 1)).toEqual([])
  })
  it.each<[string, Edit[], RegExp]>([
    [
      'a wall that closes on a loudspeaker',
      [{ document: 'plan', path: '/room/size/x', old: 31, new: 2 }],
      /outside the room/,
    ],
    [
      'a value that is no number',
      [{ document: 'plan', path: '/air/temperature', old: 20, new: 'warm' }],
      /temperature must be a number/,
    ],
    ['a place that is not there', [{ document: 'plan', path: '/garden/size', new: 3 }], /no “garden”|cannot be/],
    [
      'a drive of what is not there',
      [{ document: 'wiring', path: '/drives/ghost:0:full', new: { device: 'amp-a', channel: 0 } }],
      /a source that is not there/,
    ],
    [
      'cables in a circle',
      [{ document: 'wiring', path: '/cables/processor:7', new: { device: 'amp-a', channel: 0 } }],
      /circle/,
    ],
    [
      'what only the device can say',
      [{ document: 'held/processor', path: '/outputs/0/gain', new: 3 }],
      /Only the device/,
    ],
    [
      'the device’s own capability',
      [{ document: 'device/processor', path: '/capability/latency', old: 0.0012, new: 0 }],
      /Only the device/,
    ],
    ['a NUL', [{ document: 'source/main-l', path: '/name', old: 'Main L', new: 'Main\u0000' }], /control characters/],
    ['a prototype', [{ document: 'plan', path: '/__proto__/x', new: 1 }], /no path/],
    [
      'a kind of loudspeaker without a sheet',
      [{ document: 'source/main-l', path: '/elements/0/sheet', old: 'top-12-active', new: 'horn' }],
      /of a kind that has no sheet/,
    ],
  ])('%s: refused whole, in words', async (_, edits, why) => {
    const site = await demoSite()
    const before = await documentsOf(site)
    const outcome = await makeEdits(site, byHand(edits), ann)
    expect(outcome).toMatchObject({ ok: false, why: expect.saying(why) as string })
    expect(await documentsOf(site)).toBe(before)
    const rows = await database().select().from(changes).where(eq(changes.siteId, site))
    expect(rows).toEqual([])
  })
  it('of the air do not meet somebody’s wall: small paths', async () => {
    const site = await demoSite()
    const both = await Promise.all([
      makeEdits(site, byHand([{ document: 'plan', path: '/air/temperature', old: 20, new: 24 }]), ann),
      makeEdits(
        site,
        byHand([{ document: 'plan', path: '/room/surfaces/left', old: 'brick', new: 'curtain' }]),
        ben,
      ),
    ])
    expect(both.map(o => o.ok)).toEqual([true, true])
    expect(contentOf(await documentsOf(site), 'plan')).toMatchObject({
      air: { temperature: 24 },
      room: { surfaces: { left: 'curtain' } },
    })
  })
  it('that come together go into few commits, in order, each held against the one before it', async () => {
    const site = await demoSite()
    await documentsOf(site)
    const outcomes = await Promise.all(
      Array.from({ length: 100 }, (_, n) => makeEdits(site, byHand([gain(-n / 10, -(n + 1) / 10)]), ann)),
    )
    expect(outcomes.filter(o => !o.ok)).toEqual([])
    expect(await gainIn(site)).toBe(-10)
    expect((await changesAfter(site, 0)).map(c => c.number)).toEqual(Array.from({ length: 100 }, (_, n) => n + 1))
    // the documents that are stored are those that are known
    const [stored] = await database()
      .select()
      .from(documents)
      .where(sql`site_id = ${site} and key = 'settings/processor'`)
    expect(stored!.content).toEqual(contentOf(await documentsOf(site), 'settings', 'processor'))
  })
  it('that many make at once against one value: one wins', async () => {
    const site = await demoSite()
    const outcomes = await Promise.all(
      Array.from({ length: 12 }, (_, n) => makeEdits(site, byHand([gain(0, -10 - n)]), n % 2 ? ann : ben)),
    )
    expect(outcomes.filter(o => o.ok)).toHaveLength(1)
    expect(outcomes.filter(o => !o.ok && o.status === 'overtaken')).toHaveLength(11)
  })
  it('of a site that is not there, or deleted, are answered so; a deleted one can be brought back', async () => {
    expect(await makeEdits('nowhere', byHand([gain(0, -1)]), ann)).toMatchObject({ ok: false, status: 'missing' })
    const site = await demoSite()
    const deleted = (old: boolean): Edit => ({ document: 'site', path: '/deleted', old, new: !old })
    expect(await makeEdits(site, byHand([deleted(false)]), ann)).toMatchObject({ ok: true })
    expect(await makeEdits(site, byHand([gain(0, -1)]), ann)).toMatchObject({ ok: false, status: 'missing' })
    expect(await makeEdits(site, byHand([deleted(true)]), ann)).toMatchObject({ ok: true })
  })
  it('fail whole when the database does, and go on when it is back', async () => {
    const site = await demoSite()
    await documentsOf(site)
    await database().execute(sql`alter table changes rename to changes_away`)
    await expect(makeEdits(site, byHand([gain(0, -1)]), ann)).rejects.toThrow()
    await database().execute(sql`alter table changes_away rename to changes`)
    expect(await gainIn(site)).toBe(0)
    expect(await makeEdits(site, byHand([gain(0, -1)]), ann)).toMatchObject({ ok: true, changes: [{ number: 1 }] })
  })
})

describe('undo', () => {
  it('takes back one’s own, by gesture, across settings and the plan, and makes it again', async () => {
    const site = await demoSite()
    await makeEdits(site, byHand([moved(4)]), ann)
    for (const [a, b] of [
      [0, -1],
      [-1, -2],
      [-2, -3],
    ] as const)
      await makeEdits(site, byHand([gain(a, b)], 'turn'), ann)
    await makeEdits(site, byHand([gain(0, -7, 7)]), ben)
    expect(await undo(site, false, false, ann)).toMatchObject({
      status: 'done',
      what: 'Undone: System processor, output 7 gain is 0.0 dB.',
    })
    expect([await gainIn(site), await gainIn(site, 7)]).toEqual([0, -7])
    expect(await undo(site, false, false, ann)).toMatchObject({
      status: 'done',
      what: 'Undone: Main L moved.',
    })
    expect(await undo(site, false, false, ann)).toEqual({ status: 'nothing' })
    expect(await undo(site, true, false, ann)).toMatchObject({ status: 'done' })
    expect(await undo(site, true, false, ann)).toMatchObject({ status: 'done' })
    expect([
      await gainIn(site),
      contentOf(await documentsOf(site), 'source', 'main-l')!.elements[0]!.place.x,
    ]).toEqual([-3, 4])
    expect(await undo(site, true, false, ann)).toEqual({ status: 'nothing' })
    expect(await undo(site, false, false, ben)).toMatchObject({ status: 'done' })
  })
  it('something new ends what could be made again, for that person alone', async () => {
    const site = await demoSite()
    for (const who of [ann, ben]) await makeEdits(site, byHand([gain(0, -1, who === ann ? 6 : 7)]), who)
    for (const who of [ann, ben]) await undo(site, false, false, who)
    await makeEdits(site, byHand([gain(0, -2)]), ann)
    expect(await undo(site, true, false, ann)).toEqual({ status: 'nothing' })
    expect(await undo(site, true, false, ben)).toMatchObject({ status: 'done' })
  })
  it('leaves what somebody else has changed since, takes back the rest of the gesture in one go, '
    + 'and says so', async () => {
    const site = await demoSite()
    await makeEdits(site, byHand([gain(0, -9), gain(0, -9, 7)]), ann)
    await makeEdits(site, byHand([gain(-9, -5)]), ben)
    const answer = await undo(site, false, false, ann)
    expect(answer).toMatchObject({
      status: 'done',
      what: expect.stringContaining('1 more was changed meanwhile and left as it is') as string,
    })
    expect([await gainIn(site), await gainIn(site, 7)]).toEqual([-5, 0])
  })
  it('what nothing is left of is refused once, and the one before it can still be reached', async () => {
    const site = await demoSite()
    await makeEdits(site, byHand([gain(0, -1, 7)]), ann)
    await makeEdits(site, byHand([gain(0, -4)]), ann)
    await makeEdits(site, byHand([gain(-4, -5)]), ben)
    expect(await undo(site, false, false, ann)).toMatchObject({
      status: 'refused',
      why: expect.saying(/by somebody else.*once more for the change before it/) as string,
    })
    expect(await undo(site, false, false, ann)).toMatchObject({ status: 'done' })
    expect([await gainIn(site), await gainIn(site, 7)]).toEqual([-5, 0])
  })
  it('edits without a gesture are kept out of it', async () => {
    const site = await demoSite()
    await makeEdits(site, byHand([gain(0, -1)], null), ann)
    expect(await undo(site, false, false, ann)).toEqual({ status: 'nothing' })
  })
})

describe('listeners', () => {
  it('hear every change once and in order', async () => {
    const site = await demoSite()
    const heard: number[] = []
    const stop = actorOf(site).listen(list => heard.push(...list.map(c => c.number)))
    await Promise.all(Array.from({ length: 30 }, (_, n) => makeEdits(site, byHand([gain(-n, -n - 1)]), ann)))
    expect(heard).toEqual(Array.from({ length: 30 }, (_, n) => n + 1))
    stop()
    await makeEdits(site, byHand([gain(-30, 0)]), ann)
    expect(heard).toHaveLength(30)
  })
})

/** A query that is done at once, and told when the gate opens. */
function toldLate<T extends object>(query: T, gate: Promise<void>, done: () => void): T {
  return new Proxy(query, {
    get(from, name) {
      const member = Reflect.get(from, name) as unknown
      if (typeof member !== 'function') return member
      return (...args: unknown[]) => {
        if (name !== 'then') return toldLate(member.apply(from, args) as object, gate, done)
        const [tell, fail] = args as [(rows: unknown) => void, (error: unknown) => void]
        const late = (rows: unknown) => {
          done()
          void gate.then(() => tell(rows))
        }
        return member.apply(from, [late, fail]) as unknown
      }
    },
  })
}

describe('what a server knows of a site', () => {
  const doing = { who: 'Ann', person: 'ann', gesture: null, origin: 'edit', live: false, undo: 'none' } as const
  const change = (actor: SiteActor, value: number, old?: number) => actor.do((): Prepared => {
    const edit = { document: 'settings/processor', path: '/outputs/0/gain', new: value }
    return { ok: true, hand: 'person', parts: [{ edits: [old === undefined ? edit : { ...edit, old }], doing }] }
  })
  const opened = () => {
    let open = () => {}
    const gate = new Promise<void>(done => (open = done))
    return { gate, open }
  }
  it('holds what another server stores while it is read for the first time', async () => {
    const site = await demoSite()
    const [here, there] = [actorOf(site), new SiteActor(site)]
    await there.read()
    const db = database()
    const real = db.transaction.bind(db)
    const { gate, open } = opened()
    const slow = vi.spyOn(db, 'transaction').mockImplementationOnce(async (work, config) => {
      const read = await real(work, config)
      await gate
      return read
    })
    const first = here.read()
    expect(await change(there, -25)).toMatchObject({ ok: true })
    here.keepUp() // the other server's word
    open()
    expect((await first)!.number).toBe(1)
    expect((await documentsOf(site))['settings/processor']).toMatchObject({ '/outputs/0/gain': -25 })
    slow.mockRestore()
  })
  it('holds what another server stores while what that stored before is read', async () => {
    const site = await demoSite()
    const [here, there] = [actorOf(site), new SiteActor(site)]
    await here.read()
    await change(there, -1)
    const db = database()
    const real = db.select.bind(db)
    const [answer, query] = [opened(), opened()]
    const slow = vi.spyOn(db, 'select').mockImplementationOnce(((...args: Parameters<typeof real>) =>
      toldLate(real(...args), answer.gate, query.open)) as typeof db.select)
    here.keepUp()
    await query.gate
    await change(there, -2, -1)
    const all = here.follow() // the word of the second comes while the first is still being read
    answer.open()
    await all
    expect([here.number, (await documentsOf(site))['settings/processor']]).toMatchObject([2, { '/outputs/0/gain': -2 }])
    slow.mockRestore()
  })
  type Statement = (query: Parameters<ReturnType<typeof database>['execute']>[0]) => Promise<unknown>
  /** A site that somebody listens to, whose next statement goes another way; `heard`: numbers of what is told. */
  async function withFault(next: (real: Statement) => Statement) {
    const actor = actorOf(await demoSite())
    await actor.read()
    const heard: number[] = []
    actor.listen(list => heard.push(...list.map(c => c.number)))
    const db = database()
    const way = next(db.execute.bind(db)) as typeof db.execute
    const spy = vi.spyOn(db, 'execute').mockImplementationOnce(way)
    return { actor, heard, mend: () => spy.mockRestore() }
  }
  it('is told to whoever listens though the answer of the database was lost', async () => {
    const { actor, heard, mend } = await withFault(real => async (query) => {
      await real(query)
      throw new Error('Connection terminated unexpectedly')
    })
    await expect(change(actor, -3)).rejects.toThrow('terminated')
    await expect.poll(() => heard).toEqual([1])
    mend()
    expect(await change(actor, -4, -3)).toMatchObject({ ok: true })
    expect(heard).toEqual([1, 2])
  })
  it('is told though the database did what it was asked only after it was given up', async () => {
    const caughtUp = opened()
    const { actor, heard, mend } = await withFault(real => async (query) => {
      void caughtUp.gate.then(() => real(query))
      throw new Error('Query read timeout')
    })
    await expect(change(actor, -3)).rejects.toThrow('timeout')
    await actor.follow()
    expect(heard).toEqual([])
    caughtUp.open()
    await expect.poll(() => heard).toEqual([1])
    mend()
  })
  it('is let go of when the database was put back to before, and whoever listens is told to read anew', async () => {
    const site = await demoSite()
    const actor = actorOf(site)
    for (const n of [0, 1, 2]) await change(actor, -n - 1, n ? -n : undefined)
    let renewed = 0
    actor.onRenewal(() => renewed++)
    await actor.follow()
    expect([renewed, actor.number]).toEqual([0, 3])
    await database().delete(changes).where(and(eq(changes.siteId, site), gt(changes.number, 1)))
    await database().update(sites).set({ number: 1 }).where(eq(sites.id, site))
    await actor.follow()
    expect([renewed, (await actor.read())!.number]).toEqual([1, 1])
  })
})
