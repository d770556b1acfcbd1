import type { BandPart, SpeechLevels, TimeWeighting, Weighting } from '~~/core/measure'
import type { Choice } from '~/parts/choices'

export const frequencyWindows = [
  ['whole', 18, 20_500],
  ['low', 20, 200],
  ['low and middle', 40, 800],
  ['middle', 200, 3000],
  ['high', 1000, 20_000],
] as const

/** How the charts are shown until somebody says otherwise. */
export const usualSettings = {
  low: 18,
  high: 20_500,
  /** dB shown; the top follows the traces. */ span: 42,
  /** Coherence under which a trace is pale. */ trust: 0.6,
  /** Limits of what 95 of 100 measurements would show. */ confidence: false,
  unwrapped: false,
  /** One delay taken out of all phases, or each its own. */ commonDelay: false,
  /** Octaves that group delay is averaged over. */ delayWidth: 1 / 3,
  complexSmoothing: false,
  showTarget: false,
  /** What sheet and groups lay over the picked output. */ layers: true,
  /** What the filters do, with what is measured. */ shaped: true,
  /** Level of the movable line in dB, or null. */ line: null as number | null,
  /** Seconds of response shown. */ time: 0.02,
  part: 3 as BandPart,
  bandTime: 'fast' as 'fast' | 'slow',
  hold: false,
  decayPart: 1 as 1 | 3,
  /** Octave levels at the listener that speech transmission is told for; null: of the room alone. */
  speechLevels: null as SpeechLevels | null,
  mapLength: 0.6,
  mapWindow: 0.1,
  limit: 0.3,
  weighting: 'A' as Weighting,
  detector: 'slow' as TimeWeighting,
}
export type ChartSettings = typeof usualSettings
type Plain = string | number | boolean | null

type Checked
  = 'confidence' | 'unwrapped' | 'commonDelay' | 'complexSmoothing' | 'hold' | 'showTarget' | 'shaped' | 'layers'

/** One thing of a chart that can be set, as a field of its settings. */
export type SettingField = {
  label: string
  /** What it is called where the label alone is not enough. */
  name?: string
  title?: string
  /** It shows only then. */
  when?: (s: ChartSettings) => boolean
} & (
  | { kind: 'check', key: Checked }
  | { kind: 'choice' | 'segment', key: keyof ChartSettings, options: readonly Choice<Plain>[] }
  | {
    kind: 'number'
    unit: string
    step: number
    places: number
    get: (s: ChartSettings) => number
    set: (s: ChartSettings, value: number) => void
  }
)

/** A choice of the settings' field `key`. */
export const choiceOf = <K extends keyof ChartSettings>(
  key: K,
  label: string,
  options: readonly Choice<ChartSettings[K] & Plain>[],
  name?: string,
  kind: 'choice' | 'segment' = 'choice',
): SettingField => ({ kind, key, label, options, ...(name ? { name } : {}) })
