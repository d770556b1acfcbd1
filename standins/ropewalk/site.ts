import type { Area, Position, SitePlan, Source } from '../../core/rig'

const block = (x0: number, x1: number, y0: number, y1: number) => [
  { x: x0, y: y0 },
  { x: x1, y: y0 },
  { x: x1, y: y1 },
  { x: x0, y: y1 },
]

const areas: Area[] = [
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

const plan: SitePlan = {
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
  areas,
  air: { temperature: 20, humidity: 45, pressure: 101.3 },
  airLater: { temperature: 25, humidity: 60, pressure: 101.3 },
  feed: { device: 'interface', channel: 0 },
  wires: [
    { from: { device: 'interface', channel: 0 }, to: { device: 'processor', channel: 0 } },
    ...[0, 1, 2, 3].map(channel => ({ from: { device: 'processor', channel }, to: { device: 'amp-a', channel } })),
    ...[0, 1, 2].map(channel => ({
      from: { device: 'processor', channel: channel + 4 },
      to: { device: 'amp-b', channel },
    })),
    { from: { device: 'processor', channel: 8 }, to: { device: 'amp-c', channel: 0 } },
  ],
}

const at = (x: number, y: number, z: number) => ({ x, y, z })
const aim = (turn: number, tilt: number) => ({ turn, tilt })
const out = (device: string, channel: number) => ({ device, channel })

const sources: Source[] = [
  {
    id: 'main-l',
    name: 'Main L',
    hue: 0,
    elements: [{ model: 'top-12', place: at(3, 3, 4.4), aim: aim(12, 14), output: out('amp-a', 0) }],
  },
  {
    id: 'main-r',
    name: 'Main R',
    hue: 1,
    elements: [{ model: 'top-12', place: at(3, 11, 4.4), aim: aim(-12, 14), output: out('amp-a', 1) }],
  },
  {
    id: 'subs',
    name: 'Subs',
    hue: 2,
    elements: [
      { model: 'sub-18', place: at(2.6, 3.2, 0.4), aim: aim(0, 0), output: out('amp-a', 2) },
      { model: 'sub-18', place: at(2.6, 4.2, 0.4), aim: aim(0, 0), output: out('amp-a', 2) },
      { model: 'sub-18', place: at(2.6, 9.8, 0.4), aim: aim(0, 0), output: out('amp-a', 3) },
      { model: 'sub-18', place: at(2.6, 10.8, 0.4), aim: aim(0, 0), output: out('amp-a', 3) },
    ],
  },
  {
    id: 'front-fill',
    name: 'Front fill',
    hue: 3,
    elements: [4, 6, 8, 10].map(y => ({
      model: 'fill-6',
      place: at(3.4, y, 1.1),
      aim: aim(0, 0),
      output: out('amp-b', 0),
    })),
  },
  {
    id: 'delay-l',
    name: 'Delay L',
    hue: 4,
    elements: [{ model: 'top-8', place: at(17, 2.5, 4.2), aim: aim(10, 15), output: out('amp-b', 1) }],
  },
  {
    id: 'delay-r',
    name: 'Delay R',
    hue: 5,
    elements: [{ model: 'top-8', place: at(17, 11.5, 4.2), aim: aim(-10, 15), output: out('amp-b', 2) }],
  },
  {
    id: 'balcony',
    name: 'Balcony',
    hue: 6,
    elements: [4, 10].map(y => ({
      model: 'top-8',
      place: at(22, y, 6.2),
      aim: aim(0, 20),
      output: out('processor', 7),
    })),
  },
  {
    id: 'foyer',
    name: 'Foyer',
    hue: 7,
    elements: [{ model: 'ceiling-6', place: at(29.5, 7, 3.2), aim: aim(0, 90), output: out('amp-c', 0) }],
  },
]

const positions: Position[] = [
  { id: 'mix', name: 'Mix desk', place: at(15.5, 7, 1.6), weight: 1, dash: 0 },
  { id: 'row-1', name: 'Row 1', place: at(5.5, 7, 1.2), weight: 1, dash: 1 },
  { id: 'mid', name: 'Mid house', place: at(11, 5, 1.2), weight: 1, dash: 2 },
  { id: 'rear', name: 'Rear', place: at(26, 9, 1.2), weight: 1, dash: 3 },
  { id: 'balcony-seat', name: 'Balcony', place: at(25, 7, 4.9), weight: 0.5, dash: 4 },
]

/** The demo site as it is seeded: a rope factory turned concert hall, made up. */
export const ropewalk = { id: 'ropewalk-hall', name: 'Ropewalk Hall', plan, sources, positions }
