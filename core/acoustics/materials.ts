/** Middle frequencies in Hz of the octaves that room data is given in (ISO 266, nominal). */
export const octaveBands = [63, 125, 250, 500, 1000, 2000, 4000, 8000] as const

/** One value for each of `octaveBands`. */
export type PerOctave = readonly number[]

/**
 * Random-incidence absorption of common finishes per octave. Rounded from handbook tables (Kuttruff, Room
 * Acoustics, table 9.1;
 * Beranek, Concert Halls, appendix): values from memory, 63 Hz and 8 kHz continued from their neighbours.
 */
export const materials = {
  'brick': { name: 'material.brick', absorption: [0.02, 0.03, 0.03, 0.03, 0.04, 0.05, 0.07, 0.07] },
  'concrete': { name: 'material.concrete', absorption: [0.01, 0.01, 0.01, 0.02, 0.02, 0.02, 0.03, 0.03] },
  'plaster': { name: 'material.plaster', absorption: [0.01, 0.02, 0.02, 0.03, 0.04, 0.05, 0.05, 0.05] },
  'plasterboard': { name: 'material.plasterboard', absorption: [0.3, 0.29, 0.1, 0.06, 0.05, 0.04, 0.04, 0.04] },
  'timber-floor': { name: 'material.timberFloor', absorption: [0.15, 0.15, 0.11, 0.1, 0.07, 0.06, 0.07, 0.07] },
  'timber-panel': { name: 'material.timberPanel', absorption: [0.35, 0.3, 0.2, 0.17, 0.15, 0.1, 0.09, 0.09] },
  'glass': { name: 'material.glass', absorption: [0.2, 0.18, 0.06, 0.04, 0.03, 0.02, 0.02, 0.02] },
  'carpet': { name: 'material.carpet', absorption: [0.05, 0.08, 0.24, 0.57, 0.69, 0.71, 0.73, 0.73] },
  'curtain': { name: 'material.curtain', absorption: [0.07, 0.14, 0.35, 0.55, 0.72, 0.7, 0.65, 0.65] },
  'acoustic-tile': { name: 'material.acousticTile', absorption: [0.4, 0.5, 0.6, 0.65, 0.75, 0.8, 0.75, 0.7] },
  'seats-empty': { name: 'material.seatsEmpty', absorption: [0.3, 0.4, 0.5, 0.58, 0.61, 0.58, 0.5, 0.45] },
  'audience': { name: 'material.audience', absorption: [0.35, 0.52, 0.68, 0.85, 0.97, 0.93, 0.85, 0.8] },
  'open': { name: 'material.open', absorption: [1, 1, 1, 1, 1, 1, 1, 1] },
} as const satisfies Record<string, { name: string, absorption: PerOctave }>
export type MaterialId = keyof typeof materials
export const materialIds = Object.keys(materials) as MaterialId[]

/** `values` (one an octave) at any frequency: linear over log frequency, the outer ones run on. */
export function atFrequency(values: PerOctave, f: number): number {
  const at = Math.log2(Math.max(1e-6, f) / octaveBands[0])
  const k = Math.floor(at)
  if (k < 0) return values[0]!
  if (k >= octaveBands.length - 1) return values[octaveBands.length - 1]!
  return values[k]! + (at - k) * (values[k + 1]! - values[k]!)
}
