import { showDelay, showNumber } from '../../units'
import type { Seconds } from '../../units'
import { message } from '../../words'
import { likely, meanOver, mind, wrong, type Finding, type Observed } from './finding'
import { hasMoved } from './heard'

/** A flat line with no delay: microphone and reference are one signal. */
function sameSignal({ curve, delay }: Observed): boolean {
  if (!curve?.coherence || Math.abs(delay) >= 2e-5) return false
  const coherence = meanOver(curve, 100, 10_000, k => curve.coherence![k]!)
  const levelAt = (k: number) => 20 * Math.log10(Math.max(1e-9, Math.hypot(curve.re[k]!, curve.im[k]!)))
  const gain = meanOver(curve, 100, 10_000, levelAt)
  const ripple = meanOver(curve, 100, 10_000, k => Math.abs(levelAt(k) - gain))
  return coherence > 0.9999 && ripple < 0.05
}

/** Microphone and reference against each other: swapped, the same, moved, turned, of two clocks. */
export function pairFindings(seen: Observed): Finding[] {
  const { sounding, arrival, delay, drift, compensated } = seen
  const found: Finding[] = []
  if (sameSignal(seen)) found.push(wrong('same', message('finding.same'), 'magnitude'))
  // with the two swapped the average shows no arrival: the delay that was found tells it
  const ahead = -(arrival?.time ?? (sounding ? delay : 0))
  if (ahead > 0.0005)
    found.push(wrong('swapped', message('finding.swapped', { delay: showDelay(ahead) }), 'impulse'))
  if (arrival && hasMoved(arrival, delay)) {
    const code = arrival.time > delay ? 'finding.moved-later' : 'finding.moved-earlier'
    const by = showDelay(Math.abs(arrival.time - delay))
    found.push(mind('moved', message(code, { time: showDelay(arrival.time), by }), 'impulse'))
  }
  if (arrival?.polarity === -1) found.push(mind('polarity', message('finding.polarity'), 'impulse'))
  if (drift !== null && Math.abs(drift) >= 2) {
    const perMinute = showNumber((Math.abs(drift) * 60) / 1000, 2)
    const code = compensated ? 'finding.drift-compensated' : 'finding.drift'
    found.push(mind('drift', message(code, { ppm: showNumber(drift, 0), perMinute }), 'impulse'))
  }
  return found
}

/** How far off a plan's distance may be, drawn with a tape (common practice: half a metre), as a time. */
const planWithin: Seconds = 0.0015

/** Plan and measurement that disagree by more than both may be off. */
export function planFindings({ arrival, expected, unfed, room, speedOfSound, clocks }: Observed): Finding[] {
  if (!arrival || clocks || expected === null || unfed !== null || arrival.time < -0.0005) return []
  const off = arrival.time - expected
  if (Math.abs(off) < planWithin + 3 * arrival.uncertainty) return []
  const by = { time: showDelay(Math.abs(off)), distance: showNumber(Math.abs(off) * speedOfSound, 2) }
  // an arrival where the plan has it speaks for the plan: something else was taken for the direct sound
  const there = (room?.echoes ?? []).some(e => Math.abs(e.time + off) < planWithin && e.level > -20)
  if (off > 0 && there) return [likely(mind('plan', message('finding.later-sound', by), 'impulse'))]
  return [likely(mind('plan', message(off > 0 ? 'finding.plan-later' : 'finding.plan-earlier', by), 'impulse'))]
}

/** What arrives although the source gets no signal is somebody else's sound. */
export function sourceFindings({ unfed, arrival, others, sounding }: Observed): Finding[] {
  if (unfed === null || !(arrival || sounding)) return []
  const who = others.map(o => o.name).join(', ')
  const stray = who
    ? message('finding.unfed-heard', { source: unfed, who })
    : message('finding.unfed-stray', { source: unfed })
  return [wrong('unfed', arrival ? stray : message('finding.unfed', { source: unfed }), 'ribbon')]
}
