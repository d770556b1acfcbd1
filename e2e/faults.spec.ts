import { expect, test, type Page } from '@playwright/test'
import { chanceOf, type Chance } from './fault'
import { faults } from './faultKinds'
import { openWorld, registers, type Person, type World } from './faultWorld'
import { area, cell } from './pages'

// Whatever is done to it: what was acknowledged is there, the screen is the device, nothing is half, undo fits, and
// everything is back by itself. KOVRIN_FAULTS says how many, KOVRIN_SEED which.

const many = Number(process.env.KOVRIN_FAULTS ?? 60)
const seed = Number(process.env.KOVRIN_SEED ?? 1)

/** What each register may hold: one value where it was acknowledged, two where the answer was lost. */
type Known = Set<number>[]

/** Turns knobs while the fault happens; what is answered with 200 is known, what is lost may be either. */
async function turning(world: World, people: readonly Person[], chance: Chance, known: Known, over: () => boolean) {
  for (let n = 0; !over(); n++) {
    const k = 2 + (n % (registers.length - 2))
    if (known[k]!.size !== 1) continue
    const old = [...known[k]!][0]!
    const value = -(chance(80) + 1) / 2
    if (value === old) continue
    const answer = await world.set(k, old, value, people[n % people.length]!).catch(() => null)
    if (answer?.status === 200) known[k] = new Set([value])
    else known[k] = new Set([old, value])
    if (!answer || answer.status >= 500) await new Promise(next => setTimeout(next, 50))
    if (known.slice(2).every(s => s.size === 2)) return
  }
}

/** The last edit of a person goes back and comes again, as if nothing had been. */
async function undoFits(world: World, person: Person, chance: Chance) {
  const before = await world.inDraft()
  const value = before[0] === -3 ? -4 - chance(5) : -3
  const good = async (what: string, asked: ReturnType<World['ask']>) => {
    const answer = await asked
    if (answer.status === 200) return answer
    const told = JSON.stringify(answer.body).slice(0, 2000)
    throw new Error(`${what} from ${before} to ${value} was answered with ${answer.status} ${told}: ${
      await world.historyOf(0)}`)
  }
  const answer = await good('A setting', world.set(0, before[0]!, value, person))
  const after = await world.inDraft()
  if (after[0] !== value) {
    const told = JSON.stringify(answer.body).slice(0, 2000)
    throw new Error(`${after[0]} where ${value} was answered with ${told}: ${await world.historyOf(0)}`)
  }
  const undo = (which: string) => world.agreeing(`/api/sites/ropewalk-hall/${which}`, { live: true }, person)
  await good('Undo', undo('undo'))
  expect(await world.inDraft()).toEqual(before)
  await good('Redo', undo('redo'))
  expect(await world.inDraft()).toEqual(after)
}

/** Which register's gain the page shows: that of the Foyer. */
const inView = registers.indexOf(9)
/** A page that is open all the time; gives what it must show by itself: every device in step, and what it holds. */
async function pageThatFollows(page: Page, url: string) {
  const line: string[] = []
  const told = (what: string) => line.push(`${new Date().toISOString().slice(14, 23)} ${what.slice(0, 120)}`)
  page.on('websocket', (ws) => {
    told('begun')
    ws.on('framesent', ({ payload }) => told(`> ${String(payload)}`))
    ws.on('framereceived', ({ payload }) => told(`< ${String(payload)}`))
    ws.on('socketerror', told)
    ws.on('close', () => told('ended'))
  })
  await page.goto(`${url}/sites/ropewalk-hall`)
  await cell(page, 'foyer/rear').click()
  await area(page, 'Shape')
  const loaded = await page.evaluate(() => performance.timeOrigin)
  return async (draft: readonly number[]) => {
    await expect(page.getByTestId('devices')).toContainText('4 of 4 devices in sync')
    await expect.poll(async () => Number.parseFloat((await page.getByLabel('Gain', { exact: true }).inputValue())
      .replace('−', '-'))).toBe(draft[inView])
      .catch((error: Error) => {
        throw new Error(`${error.message} The page’s line:\n${line.slice(-40).join('\n')}`)
      })
    await expect(page.locator('.offline')).toBeHidden()
    expect(await page.evaluate(() => performance.timeOrigin)).toBe(loaded)
  }
}

test(`${many} faults: what was acknowledged stays, nothing is half, and everything is back by itself`, async ({
  page,
}) => {
  test.setTimeout(60_000 + many * 30_000)
  const chance = chanceOf(seed)
  const world = await openWorld(many)
  try {
    await world.whole()
    const people = [await world.person('Ann'), await world.person('Ben')]
    // from its first setting on a device has a memory to look into
    expect((await world.set(0, (await world.inDraft())[0]!, -1, people[0]!)).status).toBe(200)
    const pageShows = await pageThatFollows(page, world.url)
    const kinds = Object.keys(faults).filter(k => faults[k]!.can?.(world) ?? true)
    const slowest: Record<string, number> = {}
    for (let n = 0; n < many; n++) {
      // every kind comes before one comes again
      const kind = n < kinds.length ? kinds[n]! : kinds[chance(kinds.length)]!
      const known: Known = (await world.inDraft()).map(v => new Set([v]))
      let over = false
      const turned = turning(world, people, chance, known, () => over)
      await faults[kind]!.run({ world, people, chance }).catch((error: Error) => {
        throw new Error(`In “${kind}” (fault ${n}, seed ${seed}): ${error.stack}`)
      })
      const began = Date.now()
      await world.whole()
      slowest[kind] = Math.max(slowest[kind] ?? 0, Date.now() - began)
      over = true
      await turned
      const now = await world.inDraft()
      for (const [k, values] of known.entries()) {
        if (k < 2 || values.has(now[k]!)) continue
        const wanted = `${[...values].join(' or ')} stood there`
        throw new Error(`${kind} (fault ${n}): ${now[k]} where ${wanted}: ${await world.historyOf(k)}`)
      }
      await world.check()
        .then(() => undoFits(world, people[n % 2]!, chance))
        .then(async () => pageShows(await world.inDraft()))
        .catch((error: Error) => {
          throw new Error(`After “${kind}” (fault ${n}, seed ${seed}): ${error.message}`)
        })
    }
    console.log(`${many} faults of ${kinds.length} kinds; ms until whole, at most: ${JSON.stringify(slowest)}`)
  }
  catch (error) {
    world.keepLogs(test.info().outputPath('logs'))
    await world.close()
    throw error
  }
  expect(await world.close()).toBe(0)
})
