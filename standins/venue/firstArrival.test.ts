import { describe, expect, it } from 'vitest'
import { distance, speedOfSound } from '../../core/acoustics'
import { firstArrival } from '../../core/measure'
import { feedOnly, outputsOf, routeDelay, routeTo } from '../../core/rig'
import { withSettings } from '../../core/tune'
import { delivered, plan, positions, soundHall, sources, wiring } from './testHall'
import { impulseIn } from './testSweep'

const rate = 48_000
const from = wiring.feeds.test!.from
const placeOf = (id: string) => positions.find(p => p.id === id)!.place
/** When the plan lets a source be heard, and when it is first heard in the hall. */
function both(id: string, position: string) {
  const outputs = outputsOf(wiring, id)
  const rig = { ...withSettings(delivered, feedOnly(delivered, from, outputs)), wiring }
  const { elements } = sources.find(s => s.id === id)!
  const electronics = Math.min(...outputs.map(to => routeDelay(rig, routeTo(rig, from, to)!)))
  const far = Math.min(...elements.map(e => distance(e.place, placeOf(position))))
  const planned = electronics + far / speedOfSound(plan.air)
  return { planned, found: firstArrival(impulseIn(soundHall, rig, placeOf(position)), rate) }
}

describe('the first arrival of a source in the hall', () => {
  it.each([
    ['main-l', 'mix'],
    // behind these the walls are louder than they are themselves
    ['delay-l', 'row-1'],
    ['balcony', 'mid'],
  ])('%s at %s is its direct sound, not the strongest reflection: within 0.2 ms of the plan', (id, position) => {
    const { planned, found } = both(id, position)
    expect(Math.abs(found! - planned)).toBeLessThan(2e-4)
  })
  it('of subs is the onset in their own band: within 1 ms of the plan', () => {
    const { planned, found } = both('subs', 'mix')
    expect(Math.abs(found! - planned)).toBeLessThan(1e-3)
  })
})

describe('an impulse response', () => {
  const click = (at: number, level = 1) => {
    const x = new Float32Array(8192)
    x[at] = level
    return x
  }
  it('of one click tells it, whatever comes louder later', () => {
    expect(firstArrival(click(500), rate)! * rate).toBeCloseTo(500, 0)
    const both = click(500, 0.5)
    both[900] = 1
    expect(firstArrival(both, rate)! * rate).toBeCloseTo(500, 0)
    // what is far under the loudest is no arrival
    const faint = click(500, 0.1)
    faint[900] = 1
    expect(firstArrival(faint, rate)! * rate).toBeCloseTo(900, 0)
  })
  it('of nothing tells nothing', () => {
    expect(firstArrival(new Float32Array(4096), rate)).toBeNull()
  })
})
