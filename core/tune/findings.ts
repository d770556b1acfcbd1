import type { Curve } from '../dsp'
import {
  judgedBand,
  trustedPart,
  type EchoArrival,
  type FrequencyBand,
  type Hum,
  type Level,
  type RoomTold,
} from '../measure'
import { showDelay, showFrequency, showLevel, showNumber } from '../units'
import type { Hertz, MetresPerSecond, Seconds } from '../units'

/** What shows the evidence of a finding. */
export type Evidence
  = 'levels' | 'magnitude' | 'coherence' | 'impulse' | 'envelope' | 'spectrum' | 'decay-map' | 'ribbon'

/** One plain sentence that the data supports. */
export interface Finding {
  id: string
  weight: 'wrong' | 'mind' | 'know'
  text: string
  evidence: Evidence
  /** False when something else could be the reason: the sentence then begins with 'Likely'. */
  sure: boolean
}

/** What is known of a running measurement; what is not known is null. */
export interface Observed {
  microphone: Level
  reference: Level
  /** True while the test signal plays: silence is then a fault. */
  sounding: boolean
  curve: Curve | null
  delay: Seconds
  arrival: { time: Seconds, polarity: 1 | -1 | null, uncertainty: Seconds } | null
  /** When the sound should arrive by plan and settings; null where the plan does not say. */
  expected: Seconds | null
  /** What the response says of source and room. */
  room: RoomTold | null
  /** Microphone's level per band, now. */
  spectrum: { bands: readonly FrequencyBand[], microphone: ArrayLike<number> } | null
  /**
   * Lowest level per band of several looks while nothing of ours played: what goes on all the time. Null before
   * there was silence long enough.
   */
  silence: ArrayLike<number> | null
  /** What hums in silence, by its lines' frequencies; null where nothing does, or nothing is known yet. */
  hum: Hum | null
  /** The microphone's signal is cut off at the top before full scale; not so the reference's. */
  flattened: boolean
  /** When other sources that are fed would arrive by the plan, from the compensated delay. */
  others: readonly { name: string, time: Seconds }[]
  /** Name of the source that is to be measured, when by the settings in the devices no signal reaches it. */
  unfed: string | null
  /** Arrival's drift in parts per million, when it was followed long enough. */
  drift: number | null
  /** True when the drift is taken out of the measurement. */
  compensated: boolean
  /** Reference and microphone have clocks of their own: how far their beginnings lie apart, nobody knows. */
  clocks: boolean
  speedOfSound: MetresPerSecond
}

const finding = (weight: Finding['weight']) => (id: string, text: string, evidence: Evidence): Finding =>
  ({ id, weight, text, evidence, sure: true })
const wrong = finding('wrong')
const mind = finding('mind')
const know = finding('know')
/** The same, said as what it is: likely. */
const likely = (f: Finding): Finding =>
  ({ ...f, sure: false, text: `Likely: ${f.text.charAt(0).toLowerCase()}${f.text.slice(1)}` })

/**
 * Levels (common practice: a microphone peak near -30 dBFS is usable, near -50 is not; noise at about -12 dBFS
 * RMS leaves headroom).
 */
function levelFindings({ microphone, reference, sounding, flattened }: Observed): Finding[] {
  const found: Finding[] = []
  if (microphone.peak >= -0.1)
    found.push(wrong('mic-clips', 'The microphone clips: turn its gain or the noise down.', 'levels'))
  else if (flattened)
    found.push(
      wrong(
        'mic-flat',
        'The microphone’s signal is cut off at the top before full scale: something in front of the converter clips. '
        + 'Turn its preamplifier down.',
        'levels',
      ),
    )
  if (reference.peak >= -0.1) found.push(wrong('ref-clips', 'The reference clips: turn it down.', 'levels'))
  if (sounding && reference.rms < -75)
    found.push(
      wrong(
        'ref-silent',
        'The reference is silent although the noise plays: is the right channel chosen?',
        'levels',
      ),
    )
  if (sounding && reference.rms >= -75 && microphone.peak < -50)
    found.push(
      wrong(
        'mic-quiet',
        `Too quiet to trust: `
        + `${Number.isFinite(microphone.peak) ? showLevel(microphone.peak, 0).replace('dB', 'dBFS') : 'silent'} `
        + `at the microphone. Raise its gain by about `
        + `${Number.isFinite(microphone.peak) ? Math.round(-30 - microphone.peak) : 30} dB.`,
        'levels',
      ),
    )
  return found
}

/**
 * What to do about a microphone's level while the test signal sounds, in a few words; null when it is well.
 * Common practice: peaks from -40 to -6 dBFS.
 */
export function levelAdvice({ peak }: Level): string | null {
  if (peak >= -0.1) return 'clips: turn it down by 10 dB'
  if (peak > -6) return `near clipping: turn it down by ${Math.ceil(peak + 12)} dB`
  if (!Number.isFinite(peak)) return 'silent: is it on, and on this channel?'
  return peak < -40 ? `quiet: raise the microphone by ${Math.round(-30 - peak)} dB` : null
}

/** Peak of a microphone and RMS of a reference under which nothing is measured, dBFS (common practice). */
const leastHeard = { microphone: -60, reference: -75 }
/** Whether there is a signal to measure with at both sides. */
export const isHeard = ({ microphone, reference }: { microphone: Level, reference: Level }): boolean =>
  microphone.peak > leastHeard.microphone && reference.rms > leastHeard.reference

/** Part of a curve in the source's band that must be known for it to be worth keeping. */
const leastKnown = 0.05
/** Whether a curve is known anywhere where its source plays: by its coherence, where it has one. */
export const isKnown = (curve: Curve, band: readonly [low: Hertz, high: Hertz] | null = null): boolean =>
  trustedPart(curve, band).part > leastKnown

const meanOver = (curve: Curve, low: number, high: number, value: (k: number) => number) => {
  let sum = 0
  let count = 0
  curve.frequencies.forEach((f, k) => {
    if (f >= low && f <= high) {
      sum += value(k)
      count++
    }
  })
  return count ? sum / count : 0
}

/**
 * Whether a sound arrives at another time than the one that is taken out of the curve: by more than both may be off,
 * for what is taken out was an arrival once, told no better than this one.
 */
export const hasMoved = ({ time, uncertainty }: { time: Seconds, uncertainty: Seconds }, takenOut: Seconds): boolean =>
  Math.abs(time - takenOut) > Math.max(0.0005, 5 * uncertainty)

function pairFindings({ sounding, curve, arrival, delay, drift, compensated }: Observed): Finding[] {
  const found: Finding[] = []
  if (curve?.coherence && Math.abs(delay) < 2e-5) {
    const coherence = meanOver(curve, 100, 10_000, k => curve.coherence![k]!)
    const levelAt = (k: number) => 20 * Math.log10(Math.max(1e-9, Math.hypot(curve.re[k]!, curve.im[k]!)))
    const gain = meanOver(curve, 100, 10_000, levelAt)
    const ripple = meanOver(curve, 100, 10_000, k => Math.abs(levelAt(k) - gain))
    if (coherence > 0.9999 && ripple < 0.05)
      found.push(
        wrong(
          'same',
          'Microphone and reference carry the same signal: the flat line says nothing of a loudspeaker.',
          'magnitude',
        ),
      )
  }
  // with the two swapped the average shows no arrival: the delay that was found tells it
  const ahead = -(arrival?.time ?? (sounding ? delay : 0))
  if (ahead > 0.0005)
    found.push(
      wrong(
        'swapped',
        `The microphone is ${showDelay(ahead)} ahead of the reference: are the two swapped, or is the `
        + `reference taken after a delay?`,
        'impulse',
      ),
    )
  if (arrival && hasMoved(arrival, delay))
    found.push(
      mind(
        'moved',
        `The arrival is now at ${showDelay(arrival.time)}, ${showDelay(Math.abs(arrival.time - delay))} `
        + `${arrival.time > delay ? 'later' : 'earlier'} than is removed: find the arrival again.`,
        'impulse',
      ),
    )
  if (arrival?.polarity === -1)
    found.push(
      mind(
        'polarity',
        'Polarity is inverted somewhere between the reference and the microphone: the source’s own pulse fits '
        + 'inverted.',
        'impulse',
      ),
    )
  if (drift !== null && Math.abs(drift) >= 2)
    found.push(
      mind(
        'drift',
        `Reference and microphone come from different clocks: drift ${showNumber(drift, 0)} ppm, `
        + `${showNumber((Math.abs(drift) * 60) / 1000, 2)} ms a minute. `
        + `${compensated ? 'It is taken out, but how long the way is cannot be told' : 'It is not taken out'}; use one `
        + 'device for both to be rid of it.',
        'impulse',
      ),
    )
  return found
}

/** How far off a plan's distance may be, drawn with a tape (common practice: half a metre), as a time. */
const planWithin: Seconds = 0.0015

/** Plan and measurement that disagree by more than both may be off. */
function planFindings({ arrival, expected, unfed, room, speedOfSound, clocks }: Observed): Finding[] {
  if (!arrival || clocks || expected === null || unfed !== null || arrival.time < -0.0005) return []
  const off = arrival.time - expected
  if (Math.abs(off) < planWithin + 3 * arrival.uncertainty) return []
  const by = `${showDelay(Math.abs(off))} (${showNumber(Math.abs(off) * speedOfSound, 2)} m)`
  // an arrival where the plan has it speaks for the plan: something else was taken for the direct sound
  const there = (room?.echoes ?? []).some(e => Math.abs(e.time + off) < planWithin && e.level > -20)
  if (off > 0 && there)
    return [likely(mind(
      'plan',
      `A later sound is taken for the direct one: the plan has it ${by} earlier, and something arrives there. `
      + 'Is a loudspeaker covered, or turned away?',
      'impulse',
    ))]
  return [likely(mind(
    'plan',
    `The plan is wrong somewhere: the sound arrives ${by} ${off > 0 ? 'later' : 'earlier'} than it says. Look where `
    + 'microphone and loudspeaker stand, and for a delay that Kovrin does not know.',
    'impulse',
  ))]
}

/** What arrives although the source gets no signal is somebody else's sound. */
function sourceFindings({ unfed, arrival, others, sounding }: Observed): Finding[] {
  if (unfed === null || !(arrival || sounding)) return []
  const who = others.length ? others.map(o => o.name).join(', ') : 'another loudspeaker'
  const heard = arrival ? `, yet sound arrives: ${who} is what is measured` : ''
  return [wrong(
    'unfed',
    `${unfed} gets no signal${heard}. The path ribbon says where ${unfed}’s path ends.`,
    'ribbon',
  )]
}

/** Of a source that gets no signal, level, noise and room say nothing yet: first its way must be whole. */
const waitsForRoute = new Set([
  'mic-quiet', 'low-noise', 'low-room', 'low-arrival', 'moved', 'polarity', 'echo', 'comb',
])

/** Reflections stand in the response after the direct sound; the dip of the first comb lies at 1/(2t). */
function echoFindings({ room, others, speedOfSound }: Observed): Finding[] {
  const echoes = room?.echoes ?? []
  if (!echoes.length) return []
  const direct = echoes.find(e => e.level > -10) ?? echoes[0]!
  const found: Finding[] = []
  const later = echoes.filter(e => e.time > direct.time + 0.0008)
  const twin = later
    .map(e => ({ e, other: others.find(o => Math.abs(o.time - e.time) < 0.0006 && e.level - direct.level > -16) }))
    .find(x => x.other)
  if (twin)
    found.push(
      mind(
        'two',
        `A second sound arrives ${showDelay(twin.e.time - direct.time)} after the first, when ${twin.other!.name} `
        + `would by the plan: is it on as well?`,
        'impulse',
      ),
    )
  const strong = later
    .filter(e => e !== twin?.e && e.time - direct.time < 0.05)
    .reduce<EchoArrival | null>((best, e) => (!best || e.level > best.level ? e : best), null)
  if (strong && strong.level - direct.level > -10) {
    const t = strong.time - direct.time
    found.push(
      know(
        'echo',
        `A reflection ${showDelay(t)} after the direct sound, ${showLevel(strong.level - direct.level)}: a way `
        + `${showNumber(t * speedOfSound, 2)} m longer. It makes a comb with dips at `
        + (strong.polarity === direct.polarity
          ? `${showFrequency(Math.round(1 / (2 * t)))} and odd multiples`
          : `${showFrequency(Math.round(1 / t))} and its multiples`)
        + ', which EQ cannot fill.',
        'impulse',
      ),
    )
  }
  return found
}

function modeFindings({ room }: Observed): Finding[] {
  return (room?.modes ?? [])
    .slice(0, 2)
    .map(m =>
      know(
        `mode-${Math.round(m.frequency)}`,
        `${showFrequency(Math.round(m.frequency))} rings: it takes ${showNumber(m.decay, 1)} s to fall by 60 dB, `
        + `the rest about ${showNumber(m.usual, 1)} s. EQ lowers its level there; absorption shortens it.`,
        'decay-map',
      ),
    )
}

/** A comb that no arrival of its own explains: the second sound hides in the ringing of the first. */
function combFindings({ room }: Observed): Finding[] {
  const { comb, echoes } = room ?? { comb: null, echoes: [] }
  if (!comb || comb.level < -12) return []
  const direct = echoes.find(e => e.level > -10)
  if (
    direct
    && echoes.some(e => e !== direct && Math.abs(e.time - direct.time - comb.delay) < 0.0002 && comb.delay > 0.0008)
  )
    return []
  const half = 1 / (2 * comb.delay)
  const dips = comb.polarity > 0 ? half : 2 * half
  return [
    mind(
      'comb',
      `The same sound is heard twice, ${showDelay(comb.delay)} apart, the second at `
      + `${showLevel(comb.level, 0)}${comb.polarity < 0 ? ' and turned' : ''}: a comb with dips at `
      + `${showFrequency(Math.round(dips))} and ${comb.polarity > 0 ? 'every odd multiple' : 'every multiple'}. `
      + `Look for two loudspeakers or two paths with the same signal, or a surface close by.`,
      'magnitude',
    ),
  ]
}

/** Coherence under which something is amiss. */
const lowCoherence = 0.6
/** A level over silence from which noise takes no great part, and under which it is the reason, in dB. */
const overSilence = 12
const nearSilence = 6

/** How far the microphone stands over what silence sounds like where the source plays; null while that is not known. */
function levelOverSilence({ spectrum, silence }: Observed, [low, high]: [number, number]): number | null {
  if (!spectrum || !silence) return null
  const inside = [...spectrum.bands.keys()].filter(k =>
    spectrum.bands[k]!.middle > low && spectrum.bands[k]!.middle < high)
  const over = inside.map(k => spectrum.microphone[k]! - silence[k]!).sort((a, b) => a - b)
  return over[Math.floor(over.length / 2)] ?? null
}

/**
 * Low coherence told apart: a wrong arrival, the room, or noise. What arrives too late for a block is incoherent by as
 * much as the response's own late energy says; where that is not enough, something else sounds.
 */
function trustFindings(seen: Observed): Finding[] {
  const { curve, room } = seen
  if (!curve?.coherence || !seen.sounding) return []
  const [low, high] = judgedBand(room?.band ?? null)
  const coherence = meanOver(curve, low, high, k => curve.coherence![k]!)
  if (coherence === 0 || coherence > lowCoherence) return []
  const where = `from ${showFrequency(Math.round(low))} to ${showFrequency(Math.round(high))}`
  const text = `Coherence is low (${showNumber(coherence, 2)} ${where})`
  if (seen.arrival && Math.abs(seen.arrival.time - seen.delay) > Math.max(0.002, 3 * seen.arrival.uncertainty))
    return [mind('low-arrival', `${text} because the wrong arrival is taken out: find it again.`, 'coherence')]
  const over = levelOverSilence(seen, [low, high])
  // what is missing is the product of both parts: the room's, and what noise leaves of it
  const left = Math.max(0.01, room?.coherence ?? 1)
  const byRoom = 1 / left - 1
  const byNoise = Math.max(0, left / coherence - 1)
  const noise = mind(
    'low-noise',
    `${text} because of noise in the room or on the line. Find what makes it; average longer, or measure when it is `
    + 'quiet. Only then play louder.',
    'spectrum',
  )
  if (over !== null && over < nearSilence) return [noise]
  const isSure = over !== null && (byRoom > byNoise ? over > overSilence : over < overSilence)
  if (byRoom <= byNoise) return [isSure ? noise : likely(noise)]
  const reflections = mind(
    'low-room',
    `${text} because of reflections: ${showNumber(100 * (1 - (room?.definition ?? 1)), 0)} % of the energy comes `
    + 'later than 50 ms. Go nearer, or average positions.',
    'envelope',
  )
  return [isSure ? reflections : likely(reflections)]
}

/** Hum is judged in silence only. */
function humFindings({ hum, sounding, reference: { rms } }: Observed): Finding[] {
  if (!hum || sounding || rms > -75) return []
  const isBuzz = hum.lines[0]! >= 2 * hum.mains
  return [likely(mind(
    'hum',
    `Mains ${isBuzz ? 'buzz' : 'hum'} at the microphone: ${hum.lines.join(', ')} Hz stand out and stay. `
    + `Look for a ${isBuzz ? 'dimmer or a power supply' : 'ground loop, or a cable beside a dimmer'}.`,
    'spectrum',
  ))]
}

/**
 * Everything that a running measurement says of itself, most serious first. Every sentence has a rule and its
 * numbers.
 */
export function findingsOf(seen: Observed): Finding[] {
  const order = { wrong: 0, mind: 1, know: 2 }
  return [
    ...levelFindings(seen),
    ...sourceFindings(seen),
    ...pairFindings(seen),
    ...planFindings(seen),
    ...trustFindings(seen),
    ...humFindings(seen),
    ...combFindings(seen),
    ...echoFindings(seen),
    ...modeFindings(seen),
  ]
    .filter(f => seen.unfed === null || !waitsForRoute.has(f.id))
    .sort((a, b) => order[a.weight] - order[b.weight])
}
