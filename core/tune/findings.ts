import type { Curve } from '../dsp'
import type { Comb, EchoArrival, FrequencyBand, Level, Mode } from '../measure'
import { showDelay, showFrequency, showLevel, showNumber, type MetresPerSecond, type Seconds } from '../units'

/** What shows the evidence of a finding. */
export type Evidence
  = 'levels' | 'magnitude' | 'coherence' | 'impulse' | 'envelope' | 'spectrum' | 'decay-map' | 'ribbon'

/** One plain sentence that the data supports. */
export interface Finding {
  id: string
  weight: 'wrong' | 'mind' | 'know'
  text: string
  evidence: Evidence
}

/** What is known of a running measurement; what is not known is null. */
export interface Observed {
  microphone: Level
  reference: Level
  /** True while the test signal plays: silence is then a fault. */
  sounding: boolean
  curve: Curve | null
  delay: Seconds
  arrival: { time: Seconds, polarity: 1 | -1 } | null
  /** Arrivals in the response, times from the compensated delay. */
  echoes: readonly EchoArrival[] | null
  /** Modes that ring on after the rest, and the same sound heard twice. */
  modes: readonly Mode[]
  comb: Comb | null
  /** Part of the response's energy within its first 50 ms. */
  definition: number | null
  /** Microphone's and reference's level per band. */
  spectrum: { bands: readonly FrequencyBand[], microphone: ArrayLike<number>, reference: ArrayLike<number> } | null
  /** When other sources that are fed would arrive by the plan, from the compensated delay. */
  others: readonly { name: string, time: Seconds }[]
  /** Name of the source that is to be measured, when by the settings in the devices no signal reaches it. */
  unfed: string | null
  /** Arrival's drift in parts per million, when it was followed long enough. */
  drift: number | null
  /** True when the drift is taken out of the measurement. */
  compensated: boolean
  speedOfSound: MetresPerSecond
}

const wrong = (id: string, text: string, evidence: Evidence): Finding => ({ id, weight: 'wrong', text, evidence })
const mind = (id: string, text: string, evidence: Evidence): Finding => ({ id, weight: 'mind', text, evidence })
const know = (id: string, text: string, evidence: Evidence): Finding => ({ id, weight: 'know', text, evidence })

/**
 * Levels (common practice: a microphone peak near -30 dBFS is usable, near -50 is not; noise at about -12 dBFS
 * RMS leaves headroom).
 */
function levelFindings({ microphone, reference, sounding }: Observed): Finding[] {
  const found: Finding[] = []
  if (microphone.peak >= -0.1)
    found.push(wrong('mic-clips', 'The microphone clips: turn its gain or the noise down.', 'levels'))
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
        + `at the microphone. Raise it by about `
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

function pairFindings({ curve, arrival, delay, drift, compensated }: Observed): Finding[] {
  const found: Finding[] = []
  if (curve?.coherence && Math.abs(delay) < 2e-5) {
    const coherence = meanOver(curve, 100, 10_000, k => curve.coherence![k]!)
    const ripple = meanOver(curve, 100, 10_000, k =>
      Math.abs(20 * Math.log10(Math.max(1e-9, Math.hypot(curve.re[k]!, curve.im[k]!)))),
    )
    if (coherence > 0.9999 && ripple < 0.05)
      found.push(
        wrong(
          'same',
          'Microphone and reference carry the same signal: the flat line says nothing of a loudspeaker.',
          'magnitude',
        ),
      )
  }
  if (arrival && arrival.time < -0.0005)
    found.push(
      wrong(
        'swapped',
        `The microphone is ${showDelay(-arrival.time)} ahead of the reference: are the two swapped, or is the `
        + `reference taken after a delay?`,
        'impulse',
      ),
    )
  if (arrival && Math.abs(arrival.time - delay) > 0.0005)
    found.push(
      mind(
        'moved',
        `The sound now arrives at ${showDelay(arrival.time)}, ${showDelay(Math.abs(arrival.time - delay))} `
        + `${arrival.time > delay ? 'later' : 'earlier'} than is taken out: find the arrival again.`,
        'impulse',
      ),
    )
  if (arrival && arrival.polarity < 0)
    found.push(
      mind(
        'polarity',
        'The first swing goes downwards: polarity is turned somewhere between the reference and the microphone.',
        'impulse',
      ),
    )
  if (drift !== null && Math.abs(drift) >= 2)
    found.push(
      mind(
        'drift',
        `Reference and microphone come from different clocks: drift ${showNumber(drift, 0)} ppm, `
        + `${showNumber((Math.abs(drift) * 60) / 1000, 2)} ms a minute. `
        + `${compensated ? 'It is taken out of the measurement' : 'It is not taken out'}; use one device for `
        + `both to be rid of it.`,
        'impulse',
      ),
    )
  return found
}

/** What arrives although the source gets no signal is somebody else's sound. */
const sourceFindings = ({ unfed, arrival, others }: Observed): Finding[] =>
  unfed === null || !arrival
    ? []
    : [
        wrong(
          'unfed',
          `${unfed} gets no signal, yet sound arrives: `
          + `${others.length ? others.map(o => o.name).join(', ') : 'another loudspeaker'} is what is measured. `
          + `The path ribbon says where ${unfed}’s path ends.`,
          'ribbon',
        ),
      ]

/** Reflections stand in the response after the direct sound; the dip of the first comb lies at 1/(2t). */
function echoFindings({ echoes, others, speedOfSound }: Observed): Finding[] {
  if (!echoes?.length) return []
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
        + `${showNumber(t * speedOfSound, 2)} m longer. It makes a comb: `
        + `${strong.polarity === direct.polarity ? 'dips' : 'peaks'} at `
        + `${showFrequency(Math.round(1 / (2 * t)))} and odd multiples. EQ cannot fill them.`,
        'impulse',
      ),
    )
  }
  return found
}

function modeFindings({ modes }: Observed): Finding[] {
  return modes
    .slice(0, 2)
    .map(m =>
      know(
        `mode-${Math.round(m.frequency)}`,
        `${showFrequency(Math.round(m.frequency))} rings: it takes ${showNumber(m.decay, 1)} s to fall by 60 dB, `
        + `the rest about ${showNumber(m.usual, 1)} s. A narrow cut there lowers it; only absorption shortens it.`,
        'decay-map',
      ),
    )
}

/** A comb that no arrival of its own explains: the second sound hides in the ringing of the first. */
function combFindings({ comb, echoes }: Observed): Finding[] {
  if (!comb || comb.level < -12) return []
  const direct = echoes?.find(e => e.level > -10)
  if (
    direct
    && echoes!.some(e => e !== direct && Math.abs(e.time - direct.time - comb.delay) < 0.0002 && comb.delay > 0.0008)
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

/** Low coherence told apart: the arrival is wrong, the room is loud, or something else makes noise. */
function trustFindings(seen: Observed): Finding[] {
  const { curve, definition } = seen
  if (!curve?.coherence || !seen.sounding) return []
  const coherence = meanOver(curve, 200, 8000, k => curve.coherence![k]!)
  if (coherence === 0 || coherence > 0.6) return []
  const text = `Coherence is low (${showNumber(coherence, 2)} from 200 Hz to 8 kHz)`
  if (seen.arrival && Math.abs(seen.arrival.time - seen.delay) > 0.002)
    return [mind('low-arrival', `${text} because the wrong arrival is taken out: find it again.`, 'coherence')]
  if (definition !== null && definition < 0.7)
    return [
      mind(
        'low-room',
        `${text} because of reflections: ${showNumber(100 * (1 - definition), 0)} % of the energy comes later than `
        + `50 ms. Go nearer, or average positions.`,
        'envelope',
      ),
    ]
  return [
    mind(
      'low-noise',
      `${text} because of noise in the room or on the line: average longer or play louder.`,
      'spectrum',
    ),
  ]
}

/** Hum is judged in silence only: under a test signal the room's own peaks would pass for it. */
function humFindings({ spectrum, sounding, reference: { rms } }: Observed): Finding[] {
  if (!spectrum || sounding || rms > -75) return []
  const { bands, microphone, reference } = spectrum
  /** How far a band stands over its neighbours a fifth of an octave away, more than in the reference. */
  const stands = (f: number) => {
    const k = bands.findIndex(b => f >= b.low && f < b.high)
    if (k < 6 || k > bands.length - 7) return 0
    const over = (x: ArrayLike<number>) =>
      Math.max(x[k]!, x[k - 1]!, x[k + 1]!) - (x[k - 5]! + x[k - 6]! + x[k + 5]! + x[k + 6]!) / 4
    return microphone[k]! > -90 ? over(microphone) - Math.max(0, reference[k]! > -90 ? over(reference) : 0) : 0
  }
  for (const mains of [50, 60]) {
    const lines = [1, 2, 3, 5].map(n => mains * n).filter(f => stands(f) > 10)
    if (lines.length >= 2)
      return [
        mind(
          'hum',
          `Mains hum at the microphone: ${lines.join(', ')} Hz stand out. Look for a ground loop, or a cable beside `
          + `a dimmer.`,
          'spectrum',
        ),
      ]
  }
  return []
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
    ...trustFindings(seen),
    ...humFindings(seen),
    ...combFindings(seen),
    ...echoFindings(seen),
    ...modeFindings(seen),
  ].sort((a, b) => order[a.weight] - order[b.weight])
}
