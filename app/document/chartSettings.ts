import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import type { BandPart, SpeechLevels, TimeWeighting, Weighting } from '~~/core/measure'

/** How the charts are shown until somebody says otherwise. */
const usualSettings = {
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

/** How the charts are shown, and what of it decides what is trusted; remembered by this browser. */
export const useChartSettings = defineStore('chart-settings', () => {
  const settings = useLocalStorage('kovrin-chart-settings', usualSettings, { mergeDefaults: true })
  return { settings }
})
