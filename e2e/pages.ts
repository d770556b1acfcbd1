import { expect, test as base, type APIRequestContext, type Locator, type Page } from '@playwright/test'
import { allOf, contentOf, draftOf, heldOf, type Documents, type SiteFile } from '../core/documents'
import { valueAt, type Settings } from '../core/rig'
import { encodeTake } from '../core/formats/take'

/** Seconds of the simulated hall to one of ours: nothing here waits for real time. */
const hallSpeed = 2

/** An idle connection may be closed by the server in the moment that it is used again: that is no failure. */
const again = { maxRetries: 3 }

/** The cookie of a new session. */
async function sessionOf(who: string): Promise<string> {
  const headers = { 'content-type': 'application/json' }
  const body = JSON.stringify({ who })
  const answer = await fetch(`${process.env.KOVRIN_URL}/api/session`, { method: 'PUT', headers, body })
  return answer.headers.get('set-cookie')!.split(';')[0]!
}

/** A site of a test's own, with simulated devices of its own, and what the server has of it. */
export class Site {
  readonly path: string
  readonly page: string
  constructor(readonly id: string, readonly request: APIRequestContext) {
    this.path = `/api/sites/${id}`
    this.page = `/sites/${id}`
  }

  get = async () =>
    (await (await this.request.get(this.path, again)).json()) as { number: number, documents: Documents }

  documents = async () => (await this.get()).documents
  draft = async (device: string): Promise<Settings> => draftOf(await this.documents(), device)
  held = async (device: string): Promise<Settings> => heldOf(await this.documents(), device)
  /** Draft and held value of a parameter, neutral where nothing is set. */
  async value(device: string, path: string): Promise<[draft: unknown, held: unknown]> {
    const documents = await this.documents()
    const { capability } = contentOf(documents, 'device', device)!
    return [
      valueAt(capability, draftOf(documents, device), path),
      valueAt(capability, heldOf(documents, device), path),
    ]
  }

  takes = async () => allOf(await this.documents(), 'take').filter(t => !t.deleted)
  place = async (position: string) => contentOf(await this.documents(), 'position', position)!.place
  post = async (path: string, data: object, headers: Record<string, string> = {}) => {
    const answer = await this.request.post(`${this.path}${path}`, { data, headers, ...again })
    return { status: answer.status(), body: await answer.json() }
  }

  /** Asks once more, agreeing to what came back as getting louder. */
  agreeing = async (path: string, data: object, headers: Record<string, string> = {}) => {
    const first = await this.post(path, data, headers)
    const louder = first.status === 409 ? first.body.data?.louder : undefined
    return louder ? this.post(path, { ...data, agreed: louder }, headers) : first
  }

  private readonly sessions = new Map<string, Promise<string>>()
  /** The headers of a browser at which somebody of this name sits. */
  async as(who: string): Promise<Record<string, string>> {
    const known = this.sessions.get(who) ?? sessionOf(who)
    this.sessions.set(who, known)
    return { cookie: await known }
  }

  /** One setting through the same door as the page's. */
  async edit(device: string, path: string, old: unknown, value: unknown, options: object = {}, who?: string) {
    const edits = [{ document: `settings/${device}`, path, old, new: value }]
    return this.agreeing('/changes', { edits, ...options }, who ? await this.as(who) : {})
  }
}

/** A copy of Ropewalk Hall as the last crew left it, in a rack of its own. */
async function makeSite(request: APIRequestContext): Promise<Site> {
  const demo = (await (await request.get('/api/sites/ropewalk-hall/file')).json()) as SiteFile
  const rack = `t${crypto.randomUUID().slice(0, 8)}`
  // what the demo's devices hold says nothing of this rack's: all of the drafts is still to be sent
  const kept = Object.entries(demo.documents).filter(([key]) => !key.startsWith('held/'))
  const documents: Documents = Object.fromEntries(kept.map(([key, content]) => {
    if (!key.startsWith('device/')) return [key, content]
    const device = content as { address: string }
    return [key, { ...device, address: device.address.replace(/@.*/, `@${rack}`) }]
  }))
  const info = { ...contentOf(documents, 'site')!, name: 'Ropewalk Hall test' }
  const file = { ...demo, documents: { ...documents, site: info } }
  const made = await request.post('/api/sites', { data: { from: 'file', file } })
  expect(made.status(), await made.text()).toBe(201)
  const site = new Site((await made.json()).id, request)
  const links = async () => allOf(await site.documents(), 'link').map(l => l.state)
  await expect.poll(links).toEqual(['live', 'live', 'live', 'live'])
  await site.agreeing('/send', {})
  return site
}

let current: Site
/** Every test has a hall of its own: none leans on what another left. */
export const test = base.extend<{ site: Site }>({
  site: [async ({ request, context }, use) => {
    await context.addInitScript(speed => localStorage.setItem('kovrin-hall-speed', speed), String(hallSpeed))
    // folded takes are opened once and for all; that they fold is a test of its own
    await context.addInitScript(() => localStorage.setItem('kovrin-older-takes', 'true'))
    current = await makeSite(request)
    await use(current)
    await request.post(`${current.path}/changes`, {
      ...again,
      data: { edits: [{ document: 'site', path: '/deleted', old: false, new: true }] },
    })
  }, { auto: true }],
})
export { expect }

/** Opens this test's site and waits until it is in step with its devices. */
export async function openDemo(page: Page) {
  await page.goto(current.page)
  await expect(page.getByTestId('devices')).toContainText('4 of 4 devices in sync')
}

/** A take of three points that nobody measured, as it is sent to a site of this number. */
export function madeTake(source: string, position: string) {
  const frequencies = Float64Array.from([100, 200, 400])
  const curve = { frequencies, re: new Float64Array(3).fill(1), im: new Float64Array(3), coherence: null }
  const bytes = encodeTake({ curve, impulse: null, harmonics: [], signalToNoise: [] })
  const info = {
    method: 'live',
    input: 'test',
    sampleRate: 48_000,
    length: 1024,
    blocks: 4,
    arrival: null,
    microphoneLevel: null,
    referenceLevel: null,
    sweep: null,
  }
  const timing = { reference: 'loop', sameClock: true, drift: null, delay: 0 }
  const body = (number: number) => {
    const head = Buffer.from(JSON.stringify({ source, position, only: null, info, timing, number }))
    const size = Buffer.alloc(4)
    size.writeUInt32LE(head.length)
    return Buffer.concat([size, head, bytes])
  }
  return { bytes, body }
}

/** Agrees to what is listed as getting louder. */
export const agree = (page: Page) => page.getByRole('dialog').getByRole('button', { name: 'Apply' }).click()

export const cell = (page: Page, id: string) => page.locator(`[data-cell="${id}"]`)

/** Picks a cell and starts the noise; comes back when the arrival is found. */
export async function measure(page: Page, id: string) {
  await cell(page, id).click()
  await page.getByTestId('noise').click()
  await expect(page.getByTestId('arrival')).toBeVisible()
}

/** Adds a measurement of the simulated microphone `number` at a position to the set in use. */
export async function addMicrophone(page: Page, number: number, position: string) {
  await page.getByRole('button', { name: '+ measurement' }).click()
  await choose(page, 'Microphone channel', `Microphone ${number}`)
  await choose(page, `Microphone ${number} stands`, position)
  await page.getByRole('button', { name: `Settings of Microphone ${number}` }).click()
}

/** Where metres along and across lie on the page, once the plan from above is drawn. */
export async function planOf(page: Page) {
  const plan = page.locator('[data-plan="above"]')
  await expect(plan).toHaveAttribute('data-plot', /\d/)
  const box = (await plan.boundingBox())!
  const [left, top, scale] = (await plan.getAttribute('data-plot'))!.split(' ').map(Number) as [number, number, number]
  return (x: number, y: number) => [box.x + left + x * scale, box.y + top + y * scale] as const
}

/** Level in dB that the plate shows at a frequency: points at the chart there and reads the sentence. */
export async function levelAt(page: Page, hertz: number): Promise<number> {
  const box = (await page.locator('[data-chart="Magnitude"] canvas').boundingBox())!
  const plot = (await page.locator('[data-chart="Magnitude"]').getAttribute('data-plot'))!
  const [left, right] = plot.split(' ').map(x => box.x + Number(x)) as [number, number]
  const x = left + ((right - left) * Math.log(hertz / 18)) / Math.log(20_500 / 18)
  await page.mouse.move(x, box.y + 40 + Math.random() * 20)
  const text = await page.getByTestId('readout').textContent()
  return Number(/([+−]?\d+\.\d) dB/.exec(text ?? '')?.[1]?.replace('−', '-'))
}

export const area = (page: Page, name: string) =>
  page.getByRole('navigation', { name: 'Areas' }).getByRole('button', { name }).click()

/** Follows the picked source through another of its outputs. */
export const way = (page: Page, name: string) =>
  page.getByRole('group', { name: 'Output' }).getByRole('button', { name, exact: true }).click()

/** The choice that is called so, as it stands there: its text is what is picked. */
export const choice = (root: Page | Locator, label: string) => root.getByRole('combobox', { name: label, exact: true })

/** Picks an option of a choice by its text; where several groups have one of that name, in `group`. */
export async function choose(root: Page | Locator, label: string, option: string | RegExp, group?: string) {
  await choice(root, label).click()
  const page = 'page' in root ? root.page() : root
  const list = page.getByRole('listbox')
  const named = list.getByRole('option', { name: option, ...(typeof option === 'string' ? { exact: true } : {}) })
  if (group === undefined) await named.first().click()
  else {
    await list.getByText(group, { exact: true }).waitFor()
    const all = (await list.getByRole('option').allInnerTexts()).map(t => t.trim())
    await list.getByRole('option').nth(all.findIndex((t, k) => k > all.indexOf(group) && t === option)).click()
  }
  await expect(list).toHaveCount(0)
}

/** Does one thing of a menu. */
export async function act(root: Page | Locator, menu: string, name: string) {
  await root.getByRole('button', { name: menu, exact: true }).click()
  const page = 'page' in root ? root.page() : root
  await page.getByRole('menuitem', { name, exact: true }).click()
}

/** Types a value into a labelled field and leaves it with Enter. */
export async function type(page: Page, label: string, text: string) {
  await page.getByLabel(label, { exact: true }).fill(text)
  await page.keyboard.press('Enter')
}

/** Waits until a message of this kind with these words stands, whatever else is said beside it. */
export const told = (page: Page, kind: 'info' | 'warn' | 'error', words: string | RegExp) =>
  expect(page.locator(`[data-notice="${kind}"]`).filter({ hasText: words }).first()).toBeVisible()
