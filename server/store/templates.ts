import { rectangle, type Corner, type MaterialId } from '../../core/acoustics'
import {
  sheetLibrary,
  type Area,
  type Documents,
  type Element,
  type Plan,
  type Position,
  type Source,
} from '../../core/documents'
import { driveKey, endpointKey, testFeed, type Endpoint, type Wiring } from '../../core/rig'

const block = (x0: number, x1: number, y0: number, y1: number): Corner[] =>
  rectangle(x1 - x0, y1 - y0).map(c => ({ x: c.x + x0, y: c.y + y0 }))
const output = (device: 'amp-a' | 'amp-b', channel: number): Endpoint => ({ device, channel })

/** A cabinet, and the output that drives it. */
type Cabinet = Element & { by: Endpoint }
const cabinet = (
  sheet: string,
  x: number,
  y: number,
  z: number,
  turn: number,
  tilt: number,
  by: Endpoint,
): Cabinet => ({ sheet, place: { x, y, z }, aim: { turn, tilt }, by })

type Unordered = Omit<Area, 'order'>
const seats = (id: string, name: string, outline: Corner[], more: Partial<Unordered> = {}): Unordered => ({
  id,
  name,
  kind: 'seating',
  outline,
  floor: 0,
  rear: 0,
  rows: 1,
  seats: 0.6,
  ear: 1.2,
  ...more,
})
const stage = (outline: Corner[], height: number): Unordered => ({
  id: 'stage',
  name: 'Stage',
  kind: 'stage',
  outline,
  floor: height,
  rear: height,
  rows: 1,
  seats: 1,
  ear: 1.6,
})
const positions = (...list: [name: string, x: number, y: number, z: number][]): Position[] =>
  list.map(([name, x, y, z], n) => ({
    id: `position-${n + 1}`,
    name,
    order: n,
    place: { x, y, z },
    weight: 1,
    dash: n % 5,
  }))

type Rigged = Source & { by: Endpoint[] }
const sources = (...list: [name: string, ...cabinets: Cabinet[]][]): Rigged[] =>
  list.map(([name, ...cabinets], n) => ({
    id: `source-${n + 1}`,
    name,
    order: n,
    hue: n % 8,
    elements: cabinets.map(({ by: _, ...element }) => element),
    by: cabinets.map(c => c.by),
  }))

interface Room {
  plan: Plan
  areas: Unordered[]
}
const plan = (
  x: number,
  y: number,
  z: number,
  finishes: MaterialId[],
  areas: Unordered[],
  outline: Corner[] | null = null,
): Room => ({
  plan: {
    room: {
      size: { x, y, z },
      outline,
      surfaces: {
        front: finishes[0]!,
        back: finishes[1]!,
        left: finishes[2]!,
        right: finishes[2]!,
        floor: finishes[3]!,
        ceiling: finishes[4]!,
      },
    },
    air: { temperature: 20, humidity: 50, pressure: 101.3 },
    airLater: { temperature: 24, humidity: 55, pressure: 101.3 },
  },
  areas,
})

/** Nothing joined to anything: only that Kovrin has a signal of its own. */
const noWiring: Wiring = {
  version: 1,
  feeds: { [testFeed]: { name: 'Kovrin’s signal', from: { device: 'interface', channel: 0 } } },
  cables: {},
  drives: {},
}

/** The simulated rack’s cables: the test signal into the processor, its outputs into the amplifiers. */
const wiring = (drives: Wiring['drives']): Wiring => ({
  ...noWiring,
  cables: Object.fromEntries([
    [endpointKey({ device: 'processor', channel: 0 }), { device: 'interface', channel: 0 }],
    ...[0, 1, 2, 3].map(channel => [endpointKey(output('amp-a', channel)), { device: 'processor', channel }]),
    ...[0, 1, 2, 3].map(channel => [
      endpointKey(output('amp-b', channel)),
      { device: 'processor', channel: channel + 4 },
    ]),
  ]),
  drives,
})

interface Template {
  name: string
  about: string
  site: { plan: Room, sources: Rigged[], positions: Position[] }
}

/** What a new site can begin with: rooms as they are often met, made up. */
export const templates = {
  'nothing': {
    name: 'An empty hall',
    about: '20 × 12 × 6 m, to be drawn',
    site: {
      plan: plan(20, 12, 6, ['curtain', 'plasterboard', 'plaster', 'timber-floor', 'acoustic-tile'], []),
      sources: [],
      positions: [],
    },
  },
  'club': {
    name: 'Small club',
    about: 'standing room, two tops and two subwoofers',
    site: {
      plan: plan(
        16,
        10,
        4,
        ['curtain', 'brick', 'plasterboard', 'timber-floor', 'plasterboard'],
        [
          stage(block(0, 3, 2, 8), 0.6),
          seats('floor', 'Floor', block(3.8, 14, 0.8, 9.2), { rows: 0.8, seats: 0.6, ear: 1.6 }),
        ],
      ),
      sources: sources(
        ['Main L', cabinet('top-12', 2.8, 1.6, 2.6, 8, 8, output('amp-a', 0))],
        ['Main R', cabinet('top-12', 2.8, 8.4, 2.6, -8, 8, output('amp-a', 1))],
        [
          'Subs',
          cabinet('sub-18', 3, 1.6, 0.4, 0, 0, output('amp-a', 2)),
          cabinet('sub-18', 3, 8.4, 0.4, 0, 0, output('amp-a', 2)),
        ],
      ),
      positions: positions(['Middle', 8, 5, 1.6], ['Front left', 5, 3, 1.6], ['Bar', 13, 8, 1.6]),
    },
  },
  'theatre': {
    name: 'Theatre with a balcony',
    about: 'mains, subwoofers, front fill and loudspeakers for the balcony',
    site: {
      plan: plan(
        28,
        18,
        11,
        ['curtain', 'timber-panel', 'plaster', 'carpet', 'plaster'],
        [
          stage(block(0, 6, 2, 16), 1),
          seats('stalls', 'Stalls', block(8, 23, 2, 16), { rear: 1.2, rows: 0.95, seats: 0.55 }),
          seats('balcony', 'Balcony', block(19, 27, 2, 16), {
            kind: 'balcony',
            floor: 4.5,
            rear: 7,
            rows: 0.95,
            seats: 0.55,
          }),
        ],
      ),
      sources: sources(
        ['Main L', cabinet('top-12', 6.4, 3, 6, 8, 14, output('amp-a', 0))],
        ['Main R', cabinet('top-12', 6.4, 15, 6, -8, 14, output('amp-a', 1))],
        [
          'Subs',
          cabinet('sub-18', 6.6, 3, 0.4, 0, 0, output('amp-a', 2)),
          cabinet('sub-18', 6.6, 15, 0.4, 0, 0, output('amp-a', 3)),
        ],
        ['Front fill', ...[5, 7.7, 10.3, 13].map(y => cabinet('fill-6', 6.2, y, 1.1, 0, 5, output('amp-b', 0)))],
        ['Balcony', ...[5, 13].map(y => cabinet('top-8', 15, y, 9, 0, 12, output('amp-b', 1)))],
      ),
      positions: positions(
        ['Desk', 20, 9, 2.1],
        ['Row 2', 9.4, 9, 1.3],
        ['Mid left', 14, 5, 1.7],
        ['Balcony', 23, 9, 7],
      ),
    },
  },
  'fan': {
    name: 'Fan-shaped auditorium',
    about: 'walls that open towards the back, rising rows',
    site: {
      plan: plan(
        22,
        24,
        8,
        ['timber-panel', 'acoustic-tile', 'timber-panel', 'carpet', 'acoustic-tile'],
        [
          stage(
            [
              { x: 0, y: 8 },
              { x: 5, y: 7 },
              { x: 5, y: 17 },
              { x: 0, y: 16 },
            ],
            0.5,
          ),
          seats(
            'rows',
            'Rows',
            [
              { x: 7, y: 6.5 },
              { x: 20, y: 2.5 },
              { x: 20, y: 21.5 },
              { x: 7, y: 17.5 },
            ],
            { rear: 2.6, rows: 1, seats: 0.6 },
          ),
        ],
        [
          { x: 0, y: 7 },
          { x: 22, y: 0 },
          { x: 22, y: 24 },
          { x: 0, y: 17 },
        ],
      ),
      sources: sources(
        ['Main L', cabinet('top-12', 4, 7, 4.6, -6, 10, output('amp-a', 0))],
        ['Main R', cabinet('top-12', 4, 17, 4.6, 6, 10, output('amp-a', 1))],
        ['Centre', cabinet('top-8', 4, 12, 5.4, 0, 12, output('amp-b', 0))],
      ),
      positions: positions(['Middle', 13.5, 12, 2.5], ['Front', 8, 10, 1.4], ['Back right', 19, 19, 3.6]),
    },
  },
  'open-air': {
    name: 'Open-air stage',
    about: 'no walls, a delay pair at 30 m',
    site: {
      plan: plan(
        70,
        50,
        25,
        ['open', 'open', 'open', 'audience', 'open'],
        [
          stage(block(0, 10, 17, 33), 1.5),
          seats('field', 'Field', block(13, 65, 5, 45), { rows: 1.2, seats: 1, ear: 1.6 }),
        ],
      ),
      sources: sources(
        ['Main L', cabinet('top-12', 9, 15, 7, 4, 7, output('amp-a', 0))],
        ['Main R', cabinet('top-12', 9, 35, 7, -4, 7, output('amp-a', 1))],
        ['Subs', ...[19, 22, 25, 28, 31].map(y => cabinet('sub-18', 11, y, 0.5, 0, 0, output('amp-a', 2)))],
        ['Delay L', cabinet('top-12', 39, 14, 5, 0, 8, output('amp-b', 0))],
        ['Delay R', cabinet('top-12', 39, 36, 5, 0, 8, output('amp-b', 1))],
      ),
      positions: positions(
        ['Desk', 32, 25, 1.8],
        ['Front', 15, 25, 1.6],
        ['Behind the delays', 50, 16, 1.6],
        ['Far edge', 62, 40, 1.6],
      ),
    },
  },
} as const satisfies Record<string, Template>
export type TemplateId = keyof typeof templates
export const templateIds = Object.keys(templates) as TemplateId[]

const keyed = (kind: string, list: readonly { id: string }[]) =>
  Object.fromEntries(list.map(item => [`${kind}/${item.id}`, item]))

/** The documents of a new site from a template, under its name, without devices; wired as its rig will be. */
export function templateDocuments(id: TemplateId, name: string, rig: 'none' | 'simulated'): Documents {
  const { site }: Template = templates[id]
  const drives = Object.fromEntries(
    site.sources.flatMap(s => s.by.map((by, element) => [driveKey({ source: s.id, element, band: 'full' }), by])),
  )
  return {
    site: { name, archived: false, deleted: false },
    plan: site.plan.plan,
    wiring: rig === 'none' ? noWiring : wiring(drives),
    ...keyed(
      'area',
      site.plan.areas.map((a, order) => ({ ...a, order })),
    ),
    ...keyed(
      'source',
      site.sources.map(({ by: _, ...source }) => source),
    ),
    ...keyed('position', site.positions),
    ...keyed('sheet', sheetLibrary),
  }
}
