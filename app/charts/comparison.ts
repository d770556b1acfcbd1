import { defineStore } from 'pinia'
import type { Take } from '~~/core/documents'
import { divide, type Curve } from '~~/core/dsp'
import { average } from '~~/core/measure'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import { useListen } from '~/sound/listen'
import type { Drawn } from './traces'
import { phrase } from '~/parts/phrase'

/** What is made of the takes in view. */
export const makings = {
  none: phrase('charts.sideBySide'),
  power: phrase('charts.powerAverage'),
  complex: phrase('charts.complexAverage'),
  level: phrase('charts.averageOfLevels'),
  difference: phrase('charts.differenceOfTwo'),
} as const
export type Making = keyof typeof makings

const isOneCell = (a: Take, b: Take) => a.source === b.source && a.position === b.position

/** What is made of the takes in view: an average or a difference of them. */
export const useComparison = defineStore('comparison', () => {
  const site = useSite()
  const takes = useTakes()
  const listen = useListen()
  const making = ref<Making>('none')
  const byTrust = ref(true)

  /** Average or difference of what is in view: of `now` and the takes' curves, all smoothed alike or not at all. */
  function make(now: Curve | null, parts: readonly { take: Take, curve: Curve }[]): Drawn[] {
    const look = { hue: 7, dash: 0, predicted: false, strong: true }
    if (making.value === 'none') return []
    if (making.value === 'difference') {
      const sounding = now ? [{ name: phrase('charts.now2'), curve: now }] : []
      const [a, b] = [...sounding, ...parts.map(c => ({ name: takes.shortName(c.take), curve: c.curve }))]
      if (!a || !b) return []
      const curve = { ...divide(a.curve, b.curve), coherence: null }
      return [{ ...look, id: 'made', name: `${a.name} − ${b.name}`, curve }]
    }
    if (parts.length < 2) return []
    // several takes of a cell count once, together
    const ofCell = (t: Take) => parts.filter(p => isOneCell(p.take, t)).length
    const weighted = parts.map(({ take, curve }) =>
      ({ curve, weight: (site.positionOf(take.position)?.weight ?? 1) / ofCell(take) }))
    const name = `${makings[making.value]} of ${parts.length}`
    try {
      return [{ ...look, id: 'made', name, ...average(weighted, making.value, byTrust.value) }]
    }
    catch {
      return []
    } // all weights 0: the panel says so
  }
  /** What is made of the takes in view as it is drawn; and as it is kept, without smoothing. */
  const made = computed(() => make(listen.curve && takes.smoothed(listen.curve), takes.measured))
  const madeRaw = () => make(listen.curve, takes.curves.map(c => ({ take: c.take, curve: c.raw })))
  return { making, byTrust, made, madeRaw }
})
