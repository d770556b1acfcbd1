import { magnitude, standardGrid, type Curve } from '~~/core/dsp'
import FilterHandles from '~/charts/FilterHandles.vue'
import { useShaping } from '~/document/shaping'
import type { ChartKindDefinition } from '../kind'
import type { Trace } from '../traces'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

const trusted = Array.from(standardGrid, () => true)
const usual = [-18, 12] as const

const line = (id: string, name: string, curve: Curve, look: Partial<Trace> = {}): Trace => ({
  id,
  name,
  hue: 7,
  dash: 0,
  predicted: false,
  strong: false,
  values: magnitude(curve).map(v => (v < -150 ? Number.NaN : v)),
  trusted,
  ...look,
})

/** What the picked strip's filters do, each and together, and all devices on the way; taken hold of where they are. */
export const filters: ChartKindDefinition = {
  name: phrase('common.filters'),
  over: 'frequency',
  weight: 5,
  handles: FilterHandles,
  axis: ({ range }) => ({ unit: phrase('charts.dbOfTheDevices'), min: range[0], max: range[1], step: 6 }),
  fit: (traces) => {
    const whole = traces.filter(t => t.strong).flatMap(t => [...t.values].filter(Number.isFinite))
    const top = whole.reduce((a, b) => Math.max(a, b), usual[1] - 1)
    return [usual[0], Math.min(36, 6 * Math.ceil((top + 1) / 6))]
  },
  traces: ({ s }) => {
    const site = useSite()
    const view = useView()
    const shaping = useShaping()
    if (!shaping.strip) return []
    const hue = site.sourceOf(view.cell?.source)?.hue ?? 0
    const own = shaping.handles.filter(h => h.acts).map((h) => {
      const isPicked = h.setting.parameter.path === shaping.picked
      return line(h.setting.parameter.path, isPicked ? h.name : '', shaping.ownOf(h), { dash: isPicked ? 0 : 1 })
    })
    return [
      ...own,
      ...(s.layers ? shaping.layers.map(l => line(`layer ${l.name}`, l.name, l.curve, { hue, dash: 1 })) : []),
      ...(shaping.ways
        ? [
            ...shaping.ways.bands.map(b => line(b.name, b.name, b.curve, { hue, dash: 4 })),
            line('sum', phrase('charts.bandsTogether'), shaping.ways.sum, { hue, dash: 3 }),
          ]
        : []),
      ...(shaping.path && !shaping.ways
        ? [line('path', phrase('charts.wholePath'), shaping.path, { hue, dash: 3 })]
        : []),
      ...(shaping.inDevice
        ? [line('held', phrase('charts.inTheDevice', {
            name: shaping.name,
          }), shaping.inDevice, { hue, dash: 2 })]
        : []),
      line('strip', shaping.name, shaping.composite, { hue, strong: true }),
    ]
  },
  settings: [{ kind: 'check', key: 'layers', label: phrase('charts.sheetAndGroupsEach') }],
}
