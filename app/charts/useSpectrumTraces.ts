import { standardGrid } from '~~/core/dsp'
import { fractionalOctaves } from '~~/core/measure'
import { shownBands } from '~/workers/bandMeters'
import type { Trace } from './traces'
import { useCharts } from './useCharts'
import { useInputs } from '~/sound/inputs'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'

/** The running spectra as traces: levels per part of an octave, with their peaks held on wish. */
export function useSpectrumTraces() {
  const charts = useCharts()
  const listen = useListen()
  const sets = useSets()
  const inputs = useInputs()
  /** Peaks held so far, by trace. */
  const held = new Map<string, Float32Array>()
  watch(
    [() => charts.settings.hold, () => charts.settings.part, () => charts.settings.bandTime],
    () => held.clear(),
  )
  /** Levels of bands as a staircase on the standard grid. */
  function spectrumTrace(
    id: string,
    name: string,
    levels: Float32Array,
    look: { hue: number, dash: number, strong: boolean },
  ): Trace {
    const bands = fractionalOctaves(listen.bands!.part, ...shownBands)
    const before = held.get(id)
    const wide = Float32Array.from(levels)
    if (charts.settings.hold && before?.length === wide.length)
      wide.forEach((v, k) => {
        wide[k] = Math.max(v, before[k]!)
      })
    held.set(id, wide)
    const values = Float64Array.from(standardGrid, (f) => {
      const k = bands.findIndex(b => f >= b.low && f < b.high)
      return k < 0 || wide[k]! < -150 ? Number.NaN : wide[k]!
    })
    return { id, name, ...look, predicted: false, values, trusted: Array.from(values, () => true) }
  }
  /** The front measurement's reference and microphone, and every further microphone. */
  function spectrumTraces(): Trace[] {
    const { front } = listen
    const levels = listen.bands?.levels
    const microphone = front && levels?.get(front.microphone)
    const reference = front && levels?.get(front.reference)
    if (!levels || !microphone || !reference) return []
    const further = sets.able.filter(
      m => m.id !== front.id && m.microphone !== front.microphone && levels.has(m.microphone),
    )
    return [
      spectrumTrace('reference', 'reference', reference, { hue: 5, dash: 2, strong: false }),
      ...further.map((m, n) =>
        spectrumTrace(
          m.id,
          sets.placeOf(m)?.name ?? inputs.labelOf(m.microphone),
          levels.get(m.microphone)!,
          { hue: (n + 1) % 5, dash: sets.placeOf(m)?.dash ?? 0, strong: false },
        ),
      ),
      spectrumTrace('microphone', 'microphone', microphone, { hue: 0, dash: 0, strong: true }),
    ]
  }
  return spectrumTraces
}
