import {
  sheetLibrary,
  type Area,
  type Documents,
  type Element,
  type Plan,
  type Position,
  type SiteInfo,
  type Source,
} from '../../core/documents'
import { driveKey, endpointKey, testFeed, type Endpoint, type Wiring } from '../../core/rig'
import { processorInputs, ropewalkDevices, tunedSettings } from './devices'
import { lineVolts } from '../../core/rig/catalogue/parts'

const block = (x0: number, x1: number, y0: number, y1: number) => [
  { x: x0, y: y0 },
  { x: x1, y: y0 },
  { x: x1, y: y1 },
  { x: x0, y: y1 },
]

const areas: Omit<Area, 'order'>[] = [
  {
    id: 'stage',
    name: 'Stage',
    kind: 'stage',
    outline: block(0, 3.4, 3.6, 10.4),
    floor: 1,
    rear: 1,
    rows: 1,
    seats: 1,
    ear: 1.6,
  },
  {
    id: 'stalls',
    name: 'Stalls',
    kind: 'seating',
    outline: block(5, 19, 1.5, 12.5),
    floor: 0,
    rear: 0,
    rows: 1,
    seats: 0.55,
    ear: 1.2,
  },
  {
    id: 'balcony-seats',
    name: 'Balcony seats',
    kind: 'balcony',
    outline: block(22, 29, 1.5, 12.5),
    floor: 3.2,
    rear: 4.4,
    rows: 1.4,
    seats: 0.55,
    ear: 1.2,
  },
]

const plan: Plan = {
  room: {
    size: { x: 31, y: 14, z: 7.5 },
    outline: null,
    surfaces: {
      front: 'curtain',
      back: 'plasterboard',
      left: 'brick',
      right: 'brick',
      floor: 'seats-empty',
      ceiling: 'timber-panel',
    },
  },
  air: { temperature: 20, humidity: 45, pressure: 101.3 },
  airLater: { temperature: 25, humidity: 60, pressure: 101.3 },
}

const cabinet = (sheet: string, x: number, y: number, z: number, turn: number, tilt: number): Element => ({
  sheet,
  place: { x, y, z },
  aim: { turn, tilt },
})

/** A source, and for each band of its cabinets the output that drives it. */
interface Rigged {
  id: string
  name: string
  elements: { cabinet: Element, by: Record<string, Endpoint> }[]
}
const out = (device: string, channel: number): Endpoint => ({ device, channel })
const full = (device: string, channel: number) => ({ full: out(device, channel) })
const active = (low: number, high: number) => ({ low: out('amp-a', low), high: out('amp-a', high) })

const rigged: Rigged[] = [
  {
    id: 'main-l',
    name: 'Main L',
    elements: [{ cabinet: cabinet('top-12-active', 3, 3, 4.4, 12, 14), by: active(0, 1) }],
  },
  {
    id: 'main-r',
    name: 'Main R',
    elements: [{ cabinet: cabinet('top-12-active', 3, 11, 4.4, -12, 14), by: active(2, 3) }],
  },
  {
    id: 'subs',
    name: 'Subs',
    elements: [
      [3.2, 0],
      [4.2, 0],
      [9.8, 1],
      [10.8, 1],
    ].map(([y, channel]) => ({ cabinet: cabinet('sub-18', 2.6, y!, 0.4, 0, 0), by: full('amp-b', channel!) })),
  },
  {
    id: 'front-fill',
    name: 'Front fill',
    elements: [4, 6, 8, 10].map(y => ({ cabinet: cabinet('fill-6', 3.4, y, 1.1, 0, 0), by: full('amp-c', 1) })),
  },
  {
    id: 'delay-l',
    name: 'Delay L',
    elements: [{ cabinet: cabinet('top-8', 17, 2.5, 4.2, 10, 15), by: full('amp-b', 2) }],
  },
  {
    id: 'delay-r',
    name: 'Delay R',
    elements: [{ cabinet: cabinet('top-8', 17, 11.5, 4.2, -10, 15), by: full('amp-b', 3) }],
  },
  {
    id: 'balcony',
    name: 'Balcony',
    elements: [4, 10].map(y => ({ cabinet: cabinet('top-8', 22, y, 6.2, 0, 20), by: full('processor', 10) })),
  },
  {
    id: 'foyer',
    name: 'Foyer',
    elements: [{ cabinet: cabinet('ceiling-6', 29.5, 7, 3.2, 0, 90), by: full('amp-c', 0) }],
  },
]

/** Line inputs of the amplifiers by the processor's outputs. */
const lines: [processor: number, device: string, channel: number][] = [
  [0, 'amp-a', 0],
  [1, 'amp-a', 1],
  [2, 'amp-a', 2],
  [3, 'amp-a', 3],
  [4, 'amp-b', 0],
  [5, 'amp-b', 1],
  [6, 'amp-b', 2],
  [7, 'amp-b', 3],
  [9, 'amp-c', 0],
  [8, 'amp-c', 1],
]

/** Outputs of the console. */
const consoleFeeds = {
  left: 'Console left',
  right: 'Console right',
  sub: 'Console sub',
  fill: 'Console fill',
} as const

const feeds: Wiring['feeds'] = {
  [testFeed]: { name: 'Kovrin’s signal', from: out('interface', 0), fullScale: lineVolts },
  ...Object.fromEntries(
    Object.entries(consoleFeeds).map(([id, name], n) => [id, { name, from: out('console', n), fullScale: lineVolts }]),
  ),
}

const wiring: Wiring = {
  version: 1,
  feeds,
  cables: Object.fromEntries([
    ...Object.entries(processorInputs).map(
      ([feed, channel]) => [endpointKey(out('processor', channel)), feeds[feed]!.from] as const,
    ),
    ...lines.map(([from, device, channel]) => [endpointKey(out(device, channel)), out('processor', from)] as const),
  ]),
  drives: Object.fromEntries(
    rigged.flatMap(s =>
      s.elements.flatMap(({ by }, element) =>
        Object.entries(by).map(([band, output]) => [driveKey({ source: s.id, element, band }), output] as const),
      ),
    ),
  ),
}

const sources: Source[] = rigged.map(({ id, name, elements }, order) => ({
  id,
  name,
  order,
  hue: order,
  elements: elements.map(e => e.cabinet),
}))

const positions: Position[] = (
  [
    ['mix', 'Mix desk', 15.5, 7, 1.6, 1],
    ['row-1', 'Row 1', 5.5, 7, 1.2, 1],
    ['mid', 'Mid house', 11, 5, 1.2, 1],
    ['rear', 'Rear', 26, 9, 1.2, 1],
    ['balcony-seat', 'Balcony', 25, 7, 4.9, 0.5],
  ] as const
).map(([id, name, x, y, z, weight], order) => ({ id, name, order, place: { x, y, z }, weight, dash: order }))

/** Documents by their keys, of things that have keys of their own. */
const keyed = (kind: string, list: readonly { id: string }[]) =>
  Object.fromEntries(list.map(item => [`${kind}/${item.id}`, item]))

/**
 * The simulated devices as documents, in a rack of their own: as they were delivered, or with settings of their
 * own.
 */
export function rackDocuments(rack: string, settings?: Record<string, Record<string, unknown>>): Documents {
  return Object.fromEntries(
    ropewalkDevices.flatMap(({ id, name, capability }, order) => [
      [`device/${id}`, { id, name, order, address: `standin:${id}@${rack}`, capability }],
      [`settings/${id}`, settings?.[id] ?? {}],
    ]),
  )
}

const hall = (name: string, faulty?: 'ropewalk'): Documents => ({
  site: { name, archived: false, deleted: false, ...(faulty ? { hall: faulty } : {}) },
  plan,
  wiring,
  ...keyed(
    'area',
    areas.map((a, order) => ({ ...a, order })),
  ),
  ...keyed('source', sources),
  ...keyed('position', positions),
  ...keyed('sheet', sheetLibrary),
})

/** The demo site as it is seeded: a rope factory turned concert hall, made up. */
export const ropewalk = {
  id: 'ropewalk-hall',
  documents: { ...hall('Ropewalk Hall', 'ropewalk'), ...rackDocuments('ropewalk-hall') },
}

/** The same hall with its faults mended and its devices, in a rack of their own, set by a careful crew. */
export const ropewalkTuned = {
  id: 'ropewalk-hall-tuned',
  documents: { ...hall('Ropewalk Hall, tuned'), ...rackDocuments('ropewalk-hall-tuned', tunedSettings) },
}

/** What is wrong in the hall and stands in no document. */
export interface Faults {
  /** Pairs of inputs whose cables are swapped, as `endpointKey`. */
  swapped: readonly (readonly [string, string])[]
  /** Cabinets that are wired the wrong way round inside: source and number. */
  inverted: readonly (readonly [string, number])[]
}
const demoFaults: Faults = { swapped: [['amp-c:0', 'amp-c:1']], inverted: [['subs', 3]] }
const none: Faults = { swapped: [], inverted: [] }

/** The hidden faults of a site's hall: the demo and its copies say that they have them, the tuned one does not. */
export const faultsOf = (site: Pick<SiteInfo, 'hall'> | undefined): Faults =>
  site?.hall === 'ropewalk' ? demoFaults : none
