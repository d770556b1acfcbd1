import type { ChartKindDefinition } from './kind'
import { coherence } from './kinds/coherence'
import { distortion } from './kinds/distortion'
import { filters } from './kinds/filters'
import { groupDelay } from './kinds/groupDelay'
import { magnitude } from './kinds/magnitude'
import { phase } from './kinds/phase'
import { envelope, impulse, step } from './kinds/responses'
import { spectrum } from './kinds/spectrum'
import { decayMap, decayTimes, level, spectrogram } from './kinds/views'

const table = {
  filters,
  magnitude,
  phase,
  coherence,
  'group-delay': groupDelay,
  impulse,
  envelope,
  step,
  spectrum,
  spectrogram,
  'decay-map': decayMap,
  'decay-times': decayTimes,
  distortion,
  level,
} as const satisfies Record<string, ChartKindDefinition>

export type ChartKind = keyof typeof table
/** Every kind of chart there is; nothing else lists them. */
export const chartKinds: Readonly<Record<ChartKind, ChartKindDefinition>> = table
export const chartKindIds = Object.keys(table) as ChartKind[]
