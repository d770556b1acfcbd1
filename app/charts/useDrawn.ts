import { multiply, standardGrid, unity, type Curve } from '~~/core/dsp'
import { fewBlocks, smooth } from '~~/core/measure'
import type { Take } from '~~/core/documents'
import { partOf, predict, staleness } from '~~/core/rig'
import type { Drawn } from '~/charts/traces'
import { useCharts } from './useCharts'
import { useComparison } from './comparison'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { useCorrections } from '~/sound/corrections'
import { useEngine } from '~/sound/engine'
import { useInputs } from '~/sound/inputs'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import { phrase } from '~/parts/phrase'

/**
 * Everything that the plate draws for the picked cell and the overlaid takes: kept, predicted, measured now,
 * predicted by the draft.
 */
export function useDrawn() {
  const site = useSite()
  const view = useView()
  const listen = useListen()
  const engine = useEngine()
  const takes = useTakes()
  const comparison = useComparison()
  const charts = useCharts()
  const sets = useSets()
  const corrections = useCorrections()
  const inputs = useInputs()
  const source = computed(() => site.sourceOf(view.cell?.source))
  const position = computed(() => site.positionOf(view.cell?.position))
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

  const heldPart = computed(() => {
    const from = site.feedFrom()
    return source.value && from ? partOf(site.confirmedRig, from, source.value.id) : null
  })
  /** What the drafts will do to what sounds now, when they differ for the picked source. */
  const ahead = computed(() => {
    const then = heldPart.value
    if (!then || !source.value) return null
    const { settings } = staleness(then, site.desiredRig, source.value.id)
    if (!settings.length) return null
    const sounding = { curve: unity(standardGrid), delay: 0, then, source: source.value.id, only: null }
    const found = predict(sounding, site.desiredRig, settings)
    return { ...found, isNothing: found.unforeseen.length === settings.length }
  })
  const lookOf = (take: Take) => ({
    hue: take.hue ?? site.sourceOf(take.source)?.hue ?? 0,
    dash: site.positionOf(take.position)?.dash ?? 0,
  })

  const drawn = computed<Drawn[]>(() => {
    const list: Drawn[] = []
    for (const { take, curve, data } of takes.measured) {
      const why = takes.unpredicted[take.id]
      list.push({
        ...lookOf(take),
        id: take.id,
        still: 'kept',
        name: takes.shortName(take) + (why ? phrase('charts.notPredicted', { why }) : ''),
        predicted: false,
        strong: false,
        curve,
        inverted: view.inverted.includes(take.id),
        harmonics: data.harmonics,
        response: data.impulse,
        delay: take.timing.delay,
      })
    }
    for (const { take, curve, without } of takes.predicted) {
      list.push({
        ...lookOf(take),
        id: `${take.id}-p`,
        name: phrase('charts.predicted', {
          name: takes.shortName(take),
          inPart: without ? phrase('charts.inPart', { without }) : '',
        }),
        predicted: true,
        strong: !now.value,
        curve,
      })
    }
    list.push(...comparison.made)
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
        name: `${p.name} ${m.state === 'paused' ? phrase('charts.paused2') : phrase('charts.now2')}`,
        predicted: false,
        strong: false,
        curve,
      })
    }
    if (now.value) {
      list.push({
        ...look,
        id: 'live',
        name: `${elsewhere}${listen.front?.state === 'paused' ? phrase('charts.paused2') : phrase('charts.now2')}`
          + (ahead.value?.isNothing ? phrase('charts.draftNotPredictedIts') : ''),
        predicted: false,
        strong: true,
        curve: now.value,
        young: listen.blocks < fewBlocks && engine.length !== 'multi',
        response: listen.impulse,
        delay: listen.delay,
      })
      if (ahead.value && trimmed.value && !ahead.value.isNothing)
        list.push({
          ...look,
          id: 'ahead',
          name: ahead.value.unforeseen.length ? phrase('charts.draftPredictedInPart') : phrase('charts.draftPredicted'),
          predicted: true,
          strong: true,
          curve: smoothing(multiply(trimmed.value, ahead.value.curve)),
        })
    }
    return list
  })
  return { source, position, drawn, live: now }
}
