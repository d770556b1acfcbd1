import { expect, it } from 'vitest'
import {
  isOn,
  isStale,
  parametersOf,
  partOf,
  pathMap,
  pathResponse,
  pathsThen,
  routeTo,
  snapshotOf,
  staleness,
  type Capability,
  type Rig,
} from './index'

// Thirty devices of 8 × 8 in a chain have 8³⁰ ways from one end to the other: whoever lists them never ends.

const size = 8
const list = Array.from({ length: size }, (_, n) => n)
const range = { min: -80, max: 12, step: 0.1 }
const blocks = [{ kind: 'gain', id: 'gain', range }, { kind: 'mute', id: 'mute' }] as never
const capability: Capability = {
  version: 2,
  model: 'Matrix',
  kind: 'processor',
  firmware: '1',
  sampleRate: 48_000,
  latency: 0,
  inputs: list.map(n => ({ name: `Input ${n + 1}`, kind: 'line' })),
  outputs: list.map(n => ({ name: `Output ${n + 1}`, kind: 'line', strip: `outputs/${n}` })),
  strips: [
    ...list.map(n => ({ id: `inputs/${n}`, name: `Input ${n + 1}`, from: { port: n }, blocks })),
    ...list.map(n => ({ id: `outputs/${n}`, name: `Output ${n + 1}`, from: { mixer: 'matrix' }, blocks })),
  ],
  mixers: [{ id: 'matrix', name: 'Matrix', from: list.map(n => `inputs/${n}`), to: list.map(n => `outputs/${n}`),
    crosspoint: { kind: 'crosspoint', id: 'point', range } as never }],
  sensors: [],
  slots: 0,
}
const open = Object.fromEntries(list.flatMap(i => list.map(o => [`/matrix/${i}/${o}`, 0])))
const feed = { device: 'feed', channel: 0 }

function chain(length: number): Rig {
  const names = Array.from({ length }, (_, n) => `m${n}`)
  const cables = Object.fromEntries(names.flatMap((name, n) => list.map(c =>
    [`${name}:${c}`, n ? { device: `m${n - 1}`, channel: c } : feed] as const)))
  const last = { device: names.at(-1)!, channel: 0 }
  return {
    devices: Object.fromEntries(names.map(n => [n, { capability, settings: open }])),
    wiring: { cables, drives: { 'main:0:full': last } },
  }
}

it.each([9, 30])('a chain of %i matrices is seen through in bounded work', (length) => {
  const rig = chain(length)
  const to = { device: `m${length - 1}`, channel: 0 }
  expect(pathMap(rig, feed, to).devices).toHaveLength(length)
  expect(routeTo(rig, feed, to)).toHaveLength(2 * length)
  // every device adds its 8 inputs: +18.06 dB each
  const { re } = pathResponse(rig, feed, to, Float64Array.from([1000]))
  expect(Math.log(re[0]!) / Math.log(size)).toBeCloseTo(length, 6)
  const part = partOf(rig, feed, 'main')
  expect(pathsThen(part, 'main', null)).toHaveLength(1)
  expect(Object.keys(snapshotOf(part, () => 'x'.repeat(64)).devices)).toHaveLength(length)
  expect(isStale(staleness(part, rig, 'main'))).toBe(false)
  expect(isOn(pathMap(rig, feed, to), 'm0', parametersOf(capability).get('/inputs/0/gain')!)).toBe(true)
})
