import type { EchoArrival } from '../../measure'
import { showDelay, showFrequency, showLevel, showNumber } from '../../units'
import { message } from '../../words'
import { know, mind, type Finding, type Observed } from './finding'

/** Reflections stand in the response after the direct sound; the dip of the first comb lies at 1/(2t). */
export function echoFindings({ room, others, speedOfSound }: Observed): Finding[] {
  const echoes = room?.echoes ?? []
  if (!echoes.length) return []
  const direct = echoes.find(e => e.level > -10) ?? echoes[0]!
  const found: Finding[] = []
  const later = echoes.filter(e => e.time > direct.time + 0.0008)
  const twin = later
    .map(e => ({ e, other: others.find(o => Math.abs(o.time - e.time) < 0.0006 && e.level - direct.level > -16) }))
    .find(x => x.other)
  if (twin) {
    const time = showDelay(twin.e.time - direct.time)
    found.push(mind('two', message('finding.two', { time, source: twin.other!.name }), 'impulse'))
  }
  const strong = later
    .filter(e => e !== twin?.e && e.time - direct.time < 0.05)
    .reduce<EchoArrival | null>((best, e) => (!best || e.level > best.level ? e : best), null)
  if (strong && strong.level - direct.level > -10) {
    const t = strong.time - direct.time
    const isAlike = strong.polarity === direct.polarity
    found.push(know('echo', message(isAlike ? 'finding.echo' : 'finding.echo-inverted', {
      time: showDelay(t),
      level: showLevel(strong.level - direct.level),
      distance: showNumber(t * speedOfSound, 2),
      dip: showFrequency(Math.round(isAlike ? 1 / (2 * t) : 1 / t)),
    }), 'impulse'))
  }
  return found
}

/** Resonances of the room that ring far longer than the rest. */
export const modeFindings = ({ room }: Observed): Finding[] =>
  (room?.modes ?? []).slice(0, 2).map(m =>
    know(`mode-${Math.round(m.frequency)}`, message('finding.mode', {
      frequency: showFrequency(Math.round(m.frequency)),
      decay: showNumber(m.decay, 1),
      usual: showNumber(m.usual, 1),
    }), 'decay-map'))

/** A comb that no arrival of its own explains: the second sound hides in the ringing of the first. */
export function combFindings({ room }: Observed): Finding[] {
  const { comb, echoes } = room ?? { comb: null, echoes: [] }
  if (!comb || comb.level < -12) return []
  const direct = echoes.find(e => e.level > -10)
  const isExplained = direct && comb.delay > 0.0008
    && echoes.some(e => e !== direct && Math.abs(e.time - direct.time - comb.delay) < 0.0002)
  if (isExplained) return []
  const half = 1 / (2 * comb.delay)
  return [mind('comb', message(comb.polarity > 0 ? 'finding.comb' : 'finding.comb-inverted', {
    time: showDelay(comb.delay),
    level: showLevel(comb.level, 0),
    dip: showFrequency(Math.round(comb.polarity > 0 ? half : 2 * half)),
  }), 'magnitude')]
}
