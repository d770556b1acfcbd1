import { describe, expect, it } from 'vitest'
import { ropewalk } from '../../standins/ropewalk/site'
import { contentOf, rigOf } from '../documents'
import { is, linkedPass, outputsOf, parametersIn, routeTo, testFeed, valueOf, type Rig } from './index'

const wiring = contentOf(ropewalk.documents, 'wiring')!
const from = wiring.feeds[testFeed]!.from
const outputs = outputsOf(wiring, 'main-l')
const plain = rigOf(ropewalk.documents, 'draft')
const strips = outputs.map(to => routeTo(plain, from, to)!.find(s => s.point)!)
/** The pass of one side of the strip that feeds the band `n`. */
function passOf(n: number, side: 'high' | 'low') {
  const { device, strip } = strips[n]!
  const parameter = parametersIn(plain.devices[device]!.capability, strip)
    .find(p => is(p, 'pass') && p.capability.side === side)!
  if (!is(parameter, 'pass')) throw new Error('no pass')
  return parameter
}
/** The two-way top with the crossover's halves at these frequencies; null: off. */
function crossed(low: number | null, high: number | null): Rig {
  const { device } = strips[0]!
  const setting = (n: number, side: 'high' | 'low', frequency: number | null) => {
    const p = passOf(n, side)
    return { [p.path]: { ...p.neutral, on: frequency !== null, frequency: frequency ?? p.neutral.frequency } }
  }
  const settings = { ...setting(0, 'low', low), ...setting(1, 'high', high) }
  const { capability, settings: before } = plain.devices[device]!
  return { ...plain, devices: { ...plain.devices, [device]: { capability, settings: { ...before, ...settings } } } }
}
const linkIn = (rig: Rig) => {
  const parameter = passOf(0, 'low')
  const value = valueOf(rig.devices[strips[0]!.device]!.settings, parameter)
  return linkedPass(rig, from, outputs, strips[0]!, { parameter, value })
}

describe('a linked crossover', () => {
  it('is the other band’s pass of the other side at the same frequency', () => {
    expect(linkIn(crossed(1400, 1400))).toMatchObject({
      device: strips[1]!.device,
      path: passOf(1, 'high').path,
      value: { on: true, frequency: 1400 },
    })
  })
  it('is none where they stand apart, or one of them is off', () => {
    for (const [low, high] of [[1400, 1500], [null, 1400], [1400, null]] as const)
      expect(linkIn(crossed(low, high))).toBeNull()
  })
})
