import { standardGrid, multiply, divide, type Curve } from '~~/core/dsp'
import { fewBlocks, smooth } from '~~/core/measure'
import { asIfSounding, sourceResponse, staleness, type PathSettings } from '~~/core/rig'
import type { Drawn } from '~/components/plate/traces'

/**
 * Everything that the plate draws for the picked cell and the overlaid takes: kept, predicted, measured now,
 * predicted by the draft.
 */
export function useDrawn() {
  const site = useSite()
  const view = useView()
  const listen = useListen()
  const takes = useTakes()
  const charts = useCharts()
  const sets = useSets()
  const corrections = useCorrections()
  const inputs = useInputs()
  const source = computed(() => site.site?.sources.find(s => s.id === view.cell?.source))
  const position = computed(() => site.site?.positions.find(p => p.id === view.cell?.position))
  /**
   * Smoothed curves of further measurements, by what came from the analysis; begun anew when anything about
   * them changes.
   */
  const further = computed(() => {
    void [view.smoothing, charts.settings.complexSmoothing, corrections.interfaceText, inputs.inputs]
    return new WeakMap<object, Curve>()
  })
  const smoothing = (curve: Parameters<typeof smooth>[0]) =>
    smooth(curve, view.smoothing, undefined, charts.settings.complexSmoothing)
  const trimmed = computed(() => {
    if (!listen.curve || !listen.trim) return listen.curve
    const gain = 10 ** (listen.trim / 20)
    return { ...listen.curve, re: listen.curve.re.map(v => v * gain), im: listen.curve.im.map(v => v * gain) }
  })
  const now = computed(() => trimmed.value && smoothing(trimmed.value))

  /** Draft path over the path in the devices, when they differ for the picked source. */
  const ahead = computed(() => {
    if (!source.value) return null
    const feed = site.site!.plan.feed
    const outputs = site.outputsOf(source.value.id)
    const held: PathSettings = Object.fromEntries(
      Object.entries(site.heldRig.devices).map(([id, d]) => [id, d.settings]),
    )
    if (!staleness(site.draftRig, held, feed, outputs).length) return null
    return divide(
      sourceResponse(asIfSounding(site.draftRig, held), feed, outputs, standardGrid),
      sourceResponse(asIfSounding(site.heldRig, held), feed, outputs, standardGrid),
    )
  })

  const drawn = computed<Drawn[]>(() => {
    const list: Drawn[] = []
    for (const { take, curve, data } of takes.measured) {
      const s = site.site!.sources.find(x => x.id === take.sourceId)
      const p = site.site!.positions.find(x => x.id === take.positionId)
      list.push({
        hue: take.hue ?? s?.hue ?? 0,
        dash: p?.dash ?? 0,
        id: take.id,
        still: 'kept',
        name: takes.shortName(take),
        predicted: false,
        strong: false,
        curve,
        inverted: view.inverted.includes(take.id),
        harmonics: take.info.sweep?.harmonics,
        response: data.impulse.length
          ? { samples: data.impulse, sampleRate: take.info.sampleRate, start: take.info.impulseStart }
          : null,
      })
    }
    for (const { take, curve } of takes.predicted) {
      const s = site.site!.sources.find(x => x.id === take.sourceId)
      const p = site.site!.positions.find(x => x.id === take.positionId)
      list.push({
        hue: take.hue ?? s?.hue ?? 0,
        dash: p?.dash ?? 0,
        id: `${take.id}-p`,
        name: `${takes.shortName(take)} predicted`,
        predicted: true,
        strong: !now.value,
        curve,
      })
    }
    list.push(...takes.made.map(m => ({ ...m, curve: smoothing(m.curve) })))
    if (!source.value || !position.value) return list
    const at = listen.front ? sets.placeOf(listen.front) : position.value
    const look = { hue: source.value.hue, dash: at?.dash ?? 0 }
    const elsewhere = at && at.id !== position.value.id ? `${at.name} ` : `${source.value.name} `
    for (const m of sets.able) {
      const frame = listen.frames[m.id]
      const p = sets.placeOf(m)
      if (!frame?.curve || !p || m.id === listen.front?.id) continue
      const curve
        = further.value.get(frame.curve) ?? smoothing(corrections.corrected(listen.curveOf(frame)!, m.microphone))
      further.value.set(frame.curve, curve)
      list.push({
        hue: source.value.hue,
        dash: p.dash,
        id: `other-${m.id}`,
        still: 'slow',
        name: `${p.name} ${m.state === 'paused' ? 'paused' : 'now'}`,
        predicted: false,
        strong: false,
        curve,
      })
    }
    if (now.value) {
      list.push({
        ...look,
        id: 'live',
        name: `${elsewhere}${listen.front?.state === 'paused' ? 'paused' : 'now'}`,
        predicted: false,
        strong: true,
        curve: now.value,
        young: listen.blocks < fewBlocks && listen.length !== 'multi',
        response: listen.impulse,
      })
      if (ahead.value && trimmed.value)
        list.push({
          ...look,
          id: 'ahead',
          name: 'draft predicted',
          predicted: true,
          strong: true,
          curve: smoothing(multiply(trimmed.value, ahead.value)),
        })
    }
    return list
  })
  return { source, position, drawn, live: now }
}
