import {
  bandwidthOfQ,
  parseMeasure,
  parseDelay,
  parseFrequency,
  parseLevel,
  parseQ,
  showDelay,
  showFrequency,
  showLevel,
  showNumber,
} from '~~/core/units'

/**
 * How each kind of number is typed, shown and nudged. Frequencies move by a twelfth of an octave, everything
 * else by its own step.
 */
export const numberKinds = {
  level: {
    parse: parseLevel,
    show: (v: number) => showLevel(v),
    nudge: (v: number, n: number) => Math.round((v + 0.5 * n) * 10) / 10,
  },
  frequency: {
    parse: parseFrequency,
    show: showFrequency,
    nudge: (v: number, n: number) => Number((v * 2 ** (n / 12)).toPrecision(4)),
  },
  q: {
    parse: parseQ,
    show: (v: number) => `${showNumber(v, 2)}`,
    nudge: (v: number, n: number) => Math.max(0.3, Math.round((v + 0.1 * n) * 100) / 100),
  },
  delay: {
    parse: parseDelay,
    show: (v: number) => showDelay(v),
    nudge: (v: number, n: number) => Math.max(0, v + n * 0.0001),
  },
}

/** A plain number with a fixed unit: degrees, °C, %, kPa. */
export const plainKind = (unit: string, step: number, places: number) => ({
  parse: (text: string) => parseMeasure(text, unit),
  show: (v: number) => `${Number(v.toFixed(places))}${unit ? ` ${unit}` : ''}`.replace('-', '−'),
  nudge: (v: number, n: number) => Number((v + n * step).toFixed(4)),
})

/** The same for a table whose headings carry the units: '3.15k', '−6.0'. */
export const tableKinds = {
  frequency: {
    ...numberKinds.frequency,
    show: (v: number) => showFrequency(v).replace(' kHz', 'k').replace(' Hz', ''),
  },
  level: { ...numberKinds.level, show: (v: number) => showLevel(v).replace(' dB', '') },
  q: numberKinds.q,
}

export const octaves = (q: number) => `${showNumber(bandwidthOfQ(q), 2)} oct`
