import { beforeAll, describe, expect, it } from 'vitest'
import { distance, speedOfSound } from '../../core/acoustics'
import { rolesOf, soundingToo } from '../../core/documents'
import { magnitude, standardGrid, type Curve } from '../../core/dsp'
import { smooth } from '../../core/measure'
import { feedOnly, feedToo, outputsOf, partOf, routeDelay, routeTo } from '../../core/rig'
import {
  allHeard, offTarget, proposeAll, runSheet, settingsOf, spreadOf, sumOf, targetThirds, withSettings,
  type Figures, type StepFacts, type TuneJob, type Tuning,
} from '../../core/tune'
import { ropewalk } from '../ropewalk/site'
import { dft } from './testSweep'
import { delivered, hall, plan, positions, soundHall, sources, wiring, type PluggedRig } from './testHall'
import { wordsOf } from '../../core/words'

// The demo's hall as it was left, tuned from sweeps of each source alone; what comes of it is measured in the hall.

const from = wiring.feeds.test!.from
const ids = ['main-l', 'main-r', 'subs', 'delay-l']
const places = positions.filter(p => ['mix', 'rear'].includes(p.id))
const target = [...standardGrid].map(() => 0)
const played = (curve: Curve): Curve =>
  ({ ...curve, coherence: standardGrid.map(f => (f > 25 && f < 19_000 ? 1 : 0)) })
const rewired = (rig: PluggedRig, crossings: ReturnType<typeof feedOnly>): PluggedRig =>
  ({ ...withSettings(rig, crossings), wiring: rig.wiring })
const solo = (id: string) => rewired(delivered, feedOnly(delivered, from, outputsOf(wiring, id)))
/** All of them fed. */
const together = (rig: PluggedRig) =>
  ids.reduce((r, id) => rewired(r, feedToo(r, from, outputsOf(wiring, id))), rig)

let job: TuneJob
let tuning: Tuning
beforeAll(() => {
  const roles = rolesOf(sources, hall.sheets, [])
  const flight = (s: (typeof sources)[number], p: (typeof places)[number]) =>
    Math.min(...s.elements.map(e => distance(e.place, p.place))) / speedOfSound(plan.air)
  job = {
    rig: delivered, from, trust: 0.6, later: 0.005,
    positions: places,
    sources: sources.filter(s => ids.includes(s.id)).map((s) => {
      const [rig, outputs] = [solo(s.id), outputsOf(wiring, s.id)]
      const electronics = Math.min(...outputs.map(to => routeDelay(rig, routeTo(rig, from, to)!)))
      return {
        id: s.id, name: s.name, role: roles[s.id]!, outputs, target,
        flights: places.map(p => flight(s, p)),
        takes: places.map(p => ({
          measured: {
            curve: played(dft(soundHall, rig, p.place)),
            delay: 0,
            then: partOf(rig, from, s.id),
            source: s.id,
            only: null,
          },
          arrival: roles[s.id] === 'sub' ? null : electronics + flight(s, p),
          input: 'microphone',
        })),
      }
    }),
  }
  tuning = proposeAll(job)
}, 240_000)

const level = (c: Curve) => magnitude(smooth(c, 6))
/** What the hall reads with all sources fed; once for each rig. */
const heardIn = new Map<PluggedRig, Curve[]>()
function heardOf(rig: PluggedRig): Curve[] {
  const known = heardIn.get(rig) ?? places.map(p => dft(soundHall, together(rig), p.place))
  heardIn.set(rig, known)
  return known
}
/** Measured in the hall with all sources fed: what they differ between the places, and off the target. */
function measured(rig: PluggedRig): Figures {
  const curves = heardOf(rig)
  const { all, levels } = spreadOf(curves, places.map(p => p.weight))
  return { between: all, off: offTarget(levels, targetThirds(target), places.map(p => p.weight)) }
}

describe('the demo tuned by itself', () => {
  it('foresees from takes of each alone what all together read, within 0.5 dB at 1/6 octave', () => {
    const heard = allHeard(job, job.rig)
    places.forEach((p, n) => {
      const foreseen = level(sumOf(heard.map(list => list[n]!)).curve)
      const real = level(heardOf(delivered)[n]!)
      const inBand = (f: number) => f > 40 && f < 16_000
      const off = real.map((v, k) => (inBand(standardGrid[k]!) ? Math.abs(v - foreseen[k]!) : 0))
      expect(Math.max(...off), p.name).toBeLessThan(0.5)
    })
  })
  it('proposes what brings the hall, measured again, to half of what it was off the target', () => {
    const set = { ...withSettings(delivered, settingsOf(job, tuning.proposals)), wiring }
    const [before, after] = [measured(delivered), measured(set)]
    expect(after.off).toBeLessThan(before.off / 2)
    expect(after.between).toBeLessThan(before.between)
    // and what it foresaw is what came
    expect(Math.abs(tuning.after!.off - after.off)).toBeLessThan(0.3)
    expect(Math.abs(tuning.before!.off - before.off)).toBeLessThan(0.3)
  })
  it('times what helps after the mains, gives every proposal its reason, and sets nothing twice', () => {
    const time = tuning.proposals.find(p => p.id === 'time/delay-l')!
    expect(time.acts[0]!.act).toMatchObject({ kind: 'delay' })
    expect(tuning.proposals.every(p => p.reasons.length && p.reasons.every(r => wordsOf(r).length > 5))).toBe(true)
    const settings = settingsOf(job, tuning.proposals)
    expect(new Set(settings.map(s => s.device + s.path)).size).toBe(settings.length)
  })
  it('proposes no time for what is heard where the plan does not have it, and says why', () => {
    const swapped = {
      ...job,
      sources: job.sources.map(s => (s.id === 'delay-l'
        ? { ...s, takes: s.takes.map(t => t && { ...t, arrival: t.arrival! + 0.02 }) }
        : s)),
    }
    const { proposals, notes } = proposeAll(swapped)
    expect(proposals.some(p => p.id === 'time/delay-l')).toBe(false)
    expect(notes.map(wordsOf).join()).toMatch(/Delay L is heard otherwise than the plan lets it: .*20\.00 ms/)
  })
  it('compares levels only where one microphone heard all, and says so', () => {
    const other = {
      ...job,
      sources: job.sources.map(s => ({ ...s, takes: s.takes.map((t, n) => t && { ...t, input: `microphone ${n}` }) })),
    }
    const { proposals, notes } = proposeAll(other)
    expect(proposals.some(p => p.id.startsWith('level/'))).toBe(false)
    expect(notes.map(wordsOf).join()).toContain('Several microphones were used')
  })
})

describe('the run sheet of the demo', () => {
  const fresh = Object.fromEntries(ids.map(id => [id, places.map(() => true)]))
  const facts: StepFacts = { fresh, together: [], skipped: [], unreached: null }
  const states = (rig = job.rig, more: Partial<StepFacts> = {}) =>
    Object.fromEntries(runSheet(job, rig, { ...facts, ...more }).map(s => [s.id, s.state]))

  it('is made from the rig, and done as far as the data say so', () => {
    const before = states()
    expect(before['alone/main-l']).toBe('done')
    expect(before['shape/main-l']).toBe('open')
    expect(before['time/delay-l']).toBe('open')
    expect(before.together).toBe('open')
    const after = states(withSettings(job.rig, settingsOf(job, tuning.proposals)))
    expect(after).toMatchObject({
      'shape/main-l': 'done', 'shape/main-r': 'done', 'time/main-r': 'done', 'time/delay-l': 'done', 'sum/subs': 'done',
    })
  })
  it('reopens what an edit or a moved cable makes untrue', () => {
    const set = withSettings(job.rig, settingsOf(job, tuning.proposals))
    const edited = withSettings(set, [{ device: 'processor', path: '/outputs/6/delay', value: 0 }])
    expect(states(edited)['time/delay-l']).toBe('open')
    expect(states(set, { fresh: { ...fresh, subs: [true, false] } })['alone/subs']).toBe('stale')
    expect(states(set, { fresh: { ...fresh, subs: [true, null] } })['alone/subs']).toBe('open')
    const all = { sources: ids, stale: false, apart: 0.4 }
    expect(states(set, { together: [all] }).together).toBe('done')
    expect([states(set).show, states(set, { unreached: ['Foyer'] }).show, states(set, { unreached: [] }).show])
      .toEqual([undefined, 'open', 'done'])
    expect(states(set, { together: [{ ...all, stale: true }] }).together).toBe('stale')
    expect(states(set, { together: [{ ...all, apart: 4 }] }).together).toBe('open')
  })
  it('keeps what is skipped until it is done by itself', () => {
    expect(states(job.rig, { skipped: ['shape/main-l', 'alone/main-l'] })).toMatchObject({
      'shape/main-l': 'skipped', 'alone/main-l': 'done',
    })
  })
})

describe('what a feed lets sound', () => {
  it('besides a source is found by what is connected', () => {
    const all = sources.map(s => s.id)
    expect(soundingToo(solo('main-l'), from, all, 'main-l')).toEqual([])
    // what does not sound itself holds another one's sound: that is no sum
    expect(soundingToo(solo('main-l'), from, all, 'subs')).toEqual([])
    expect(soundingToo(together(delivered), from, all, 'main-l').toSorted()).toEqual(['delay-l', 'main-r', 'subs'])
  })
  it('the demo’s mains, subs and fills are told by kind and place', () => {
    const areas = Object.entries(ropewalk.documents).flatMap(([k, v]) => (k.startsWith('area/') ? [v] : []))
    expect(rolesOf(sources, hall.sheets, areas as never)).toMatchObject({
      'main-l': 'main', 'main-r': 'main', 'subs': 'sub', 'delay-l': 'fill', 'balcony': 'fill', 'foyer': 'fill',
    })
    const told = sources.map(s => (s.id === 'delay-l' ? { ...s, role: 'main' as const } : s))
    expect(rolesOf(told, hall.sheets, areas as never)['delay-l']).toBe('main')
  })
})
