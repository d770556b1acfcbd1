import { applyGainAndDelay, copyOf, type Curve } from '~~/core/dsp'
import { useShaping } from '~/document/shaping'
import type { ChartContext } from '../kind'
import type { SettingField } from '../settings'
import type { Drawn } from '../traces'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

/** Whether what the filters do is drawn with what is measured. */
export const shapedField: SettingField = { kind: 'check', key: 'shaped', label: phrase('charts.whatTheFiltersDo') }

/** The picked strip's filters as a line of their own, and the bands of a loudspeaker together, in Shape. */
export function shapedDrawn({ s }: ChartContext): Drawn[] {
  const view = useView()
  const site = useSite()
  const shaping = useShaping()
  if (!s.shaped || view.area !== 'shape' || !shaping.strip) return []
  const hue = site.sourceOf(view.cell?.source)?.hue ?? 0
  const line = (id: string, name: string, curve: Curve, dash: number): Drawn =>
    ({ id, name, hue, dash, predicted: false, strong: false, curve })
  const { ways } = shaping
  /** Without the devices' own latency, alike for all: what is left is what is set. */
  const early = (curve: Curve) => {
    const copy = copyOf(curve)
    applyGainAndDelay(copy, 1, -(ways?.latency ?? 0))
    return copy
  }
  return [
    line('strip', shaping.name, shaping.composite, 3),
    ...(ways ? ways.bands.map(b => line(b.name, b.name, early(b.curve), 4)) : []),
    ...(ways ? [line('sum', phrase('charts.bandsTogether'), early(ways.sum), 2)] : []),
  ]
}
