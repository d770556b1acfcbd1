import type { ChartSettings } from '~/document/chartSettings'
import type { Choice } from '~/parts/choices'
import { phrase } from '~/parts/phrase'

export const frequencyWindows = [
  ['whole', 18, 20_500],
  ['low', 20, 200],
  [phrase('charts.lowAndMiddle'), 40, 800],
  ['middle', 200, 3000],
  ['high', 1000, 20_000],
] as const

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
