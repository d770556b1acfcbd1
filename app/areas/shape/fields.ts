import { bandwidthOfQ, quantities, showFrequency, showLevel, showNumber, type Quantity } from '~~/core/units'

/** Quantities in a table whose headings carry the units: '3.15k', '−6.0'. */
export const tableQuantities = {
  frequency: { ...quantities.frequency, show: (v: number) => showFrequency(v).replace(' kHz', 'k').replace(' Hz', '') },
  level: { ...quantities.level, show: (v: number) => showLevel(v).replace(' dB', '') },
  q: quantities.q,
} satisfies Record<string, Quantity>

export const octaves = (q: number) => `${showNumber(bandwidthOfQ(q), 2)} oct`
