import { logGrid } from '../dsp'
import type { Seconds } from '../units'
import { routeTo, setDelay, type Rig } from './path'
import { pathResponse } from './response'
import { sameEndpoint, type Endpoint } from './wiring'

/** Where responses are compared: near enough for a filter of a third of an octave. */
const compared = logGrid(6, 20, 20_000)
/** Largest part by which a ratio may miss that of a mere delay. */
const mostApart = 1e-4

/**
 * How much later everything that these feeds play is by `now` than by `was`, when that is all the difference; null
 * when anything else differs, or not all of it alike: what was measured before then says nothing of what sounds now.
 */
export function delayChange(was: Rig, now: Rig, feeds: readonly Endpoint[]): Seconds | null {
  const outputs = Object.values(now.wiring.drives).filter((o, k, all) => all.findIndex(p => sameEndpoint(p, o)) === k)
  let later: Seconds | null = null
  for (const from of feeds)
    for (const to of outputs) {
      const by = routeDelayChange(was, now, from, to)
      if (by === 'other') return null
      if (by === 'silent') continue
      if (later !== null && Math.abs(by - later) > 1e-9) return null
      later = by
    }
  return later
}

function routeDelayChange(was: Rig, now: Rig, from: Endpoint, to: Endpoint): Seconds | 'silent' | 'other' {
  const before = pathResponse(was, from, to, compared)
  const after = pathResponse(now, from, to, compared)
  const level = (n: number) => Math.hypot(before.re[n]!, before.im[n]!)
  if (!compared.some((_, k) => level(k) > 0 || after.re[k] !== 0 || after.im[k] !== 0)) return 'silent'
  const [then, there] = [routeTo(was, from, to), routeTo(now, from, to)]
  if (!then || !there) return 'other'
  const by = setDelay(now, there) - setDelay(was, then)
  for (const [k, f] of compared.entries()) {
    const turn = -2 * Math.PI * f * by
    const re = before.re[k]! * Math.cos(turn) - before.im[k]! * Math.sin(turn)
    const im = before.re[k]! * Math.sin(turn) + before.im[k]! * Math.cos(turn)
    if (!(Math.hypot(after.re[k]! - re, after.im[k]! - im) <= mostApart * level(k))) return 'other'
  }
  return by
}
