import { isCombined, soundedIn, tellsCell, type Take } from '~~/core/documents'
import { applyGainAndDelay, copyOf, type Curve } from '~~/core/dsp'
import type { TakeData } from '~~/core/formats/take'
import { smooth } from '~~/core/measure'
import {
  drivesOf, isStale, predict, predictSum, sameEndpoint, type Measured, type Moved, type Rig, type Staleness, type Then,
} from '~~/core/rig'
import { levelsApart, sumOf, type Reading } from '~~/core/tune'
import { showNumber } from '~~/core/units'
import type { useSite } from './site'
import { phrase } from '~/parts/phrase'

/** What predictions are made of. */
interface Kept {
  site: ReturnType<typeof useSite>
  data: Readonly<Ref<Record<string, TakeData>>>
  load: (id: string) => void
  inCell: (source: string, position: string) => readonly Take[]
  thenOf: (take: Take) => Then | undefined
  stalenessOf: (take: Take, which: 'held' | 'draft', now: Rig) => Staleness
  movedSince: (take: Take) => string[]
  trust: () => number
}
interface Predicted {
  curve: Curve
  unforeseen: Moved[]
  /** Nothing of what was changed is foreseen: the curve is the measured one. */
  isNothing?: boolean
}

/** The curve as it is viewed: level offset and time shift of its own. */
export function viewedAs(curve: Curve, { offset, shift }: Take): Curve {
  if (!offset && !shift) return curve
  const next = copyOf(curve)
  applyGainAndDelay(next, 10 ** (offset / 20), -shift)
  return next
}

/** What takes will read with other settings: of the drafts, or of what the devices hold. */
export function createPredictions({ site, data, load, inCell, thenOf, stalenessOf, movedSince, trust }: Kept) {
  const rigOf = (which: 'held' | 'draft') => (which === 'held' ? site.confirmedRig : site.desiredRig)
  const measuredOf = (t: Take, curve: Curve): Measured | null => {
    const then = thenOf(t)
    return then ? { curve, delay: t.timing.delay, then, source: t.source, only: t.only } : null
  }

  /**
   * Takes of each output alone at the place of a take of all, by one clock and reference; null where one is
   * missing.
   */
  function partsOf(take: Take): Take[] | null {
    if (take.only || isCombined(take) || !take.timing.sameClock) return null
    const outputs = site.outputs(take.source)
    if (outputs.length < 2) return null
    const alike = inCell(take.source, take.position).filter(
      t => t.only && t.timing.sameClock && t.timing.reference === take.timing.reference && t.snapshot !== null,
    )
    const parts = outputs.map(output => alike.findLast(t => sameEndpoint(t.only!, output)))
    return parts.every(p => p !== undefined) ? parts : null
  }

  /** Why a take's prediction leaves something out, in words: which of its outputs was never recorded alone. */
  function whyUnforeseen(take: Take): string {
    if (isCombined(take)) return phrase('document.severalSoundedTogether')
    const bands = site.sheetOf(site.sourceOf(take.source)?.elements[0]?.sheet ?? '')?.bands ?? []
    const names = site.outputs(take.source)
      .filter(output => !inCell(take.source, take.position).some(t => t.only && sameEndpoint(t.only, output)))
      .map((output, n) => {
        const band = drivesOf(site.wiring, take.source).find(d => sameEndpoint(d.output, output))?.band
        return (bands.find(b => b.id === band)?.name ?? `output ${n + 1}`).toLowerCase()
      })
    const unique = [...new Set(names)]
    return unique.length
      ? `${unique.join(' and ')} alone ${unique.length > 1 ? 'are' : 'is'} missing`
      : phrase('document.itsOutputsChangedEach')
  }

  /** What a take will read with other settings: from itself, or where that cannot tell, from each output alone. */
  function predictionOf(take: Take, raw: Curve, found: Staleness, rig: Rig): Predicted | null {
    const own = measuredOf(take, raw)
    if (!own || !found.settings.length) return null
    // of several sources together it cannot be told which one changes how
    if (isCombined(take)) return { curve: raw, unforeseen: found.settings, isNothing: true }
    const predicted = predict(own, rig, found.settings)
    if (!predicted.unforeseen.length) return predicted
    const parts = (partsOf(take) ?? []).map(p =>
      data.value[p.id] ? measuredOf(p, viewedAs(data.value[p.id]!.curve, p)) : null,
    )
    if (!parts.length || !parts.every(p => p !== null))
      return { ...predicted, isNothing: predicted.unforeseen.length === found.settings.length }
    return { curve: predictSum(parts, rig, take.timing.delay), unforeseen: [] }
  }

  /** A take as the drafts, or the devices, will have it; null while its data is on its way. */
  function asUnder(take: Take, which: 'held' | 'draft'): Predicted | null {
    load(take.id)
    for (const part of partsOf(take) ?? []) load(part.id)
    const kept = data.value[take.id]
    if (!kept) return null
    const found = stalenessOf(take, which, rigOf(which))
    return predictionOf(take, kept.curve, found, rigOf(which)) ?? { curve: kept.curve, unforeseen: [] }
  }

  /** How far a measured curve lies from a predicted one, in dB; null where nothing of both is trusted. */
  const apart = (predicted: Curve, measured: Curve) =>
    levelsApart(smooth(predicted, smoothing), smooth(measured, smoothing), trust())
  const said = (by: number | null) =>
    (by === null ? '' : phrase('document.predictedAndMeasuredDiffer', { by: showNumber(by, 1) }))

  /** How far a new measurement lies from what the one before it foresaw for the settings that were made since. */
  function foreseen(take: Take, measured: Curve): string {
    if (isCombined(take)) return said(sumApart(take, measured))
    const before = inCell(take.source, take.position).findLast(t => t.id !== take.id && tellsCell(t))
    const found = before && stalenessOf(before, 'held', site.confirmedRig)
    const kept = before && data.value[before.id]
    const own = kept && measuredOf(before, kept.curve)
    if (!own || !isStale(found!) || !found!.settings.length || found!.wiring.length || movedSince(before).length)
      return ''
    const { curve, unforeseen } = predict(own, site.confirmedRig, found!.settings)
    return unforeseen.length ? '' : said(apart(curve, measured))
  }

  /** The newest take of all of a source here and of nothing else, by the clock of its reference. */
  const aloneAt = (source: string, position: string) =>
    inCell(source, position).findLast(t => tellsCell(t) && t.timing.sameClock)

  /** What takes of each source alone let their sum read where they sound together; null where one is missing. */
  function sumOfAlone(take: Take): Reading | null {
    const parts = soundedIn(take).map((source) => {
      const alone = aloneAt(source, take.position)
      const now = alone && alone.timing.reference === take.timing.reference ? asUnder(alone, 'held') : null
      return now && !now.unforeseen.length ? { curve: now.curve, delay: alone!.timing.delay } : null
    })
    return parts.every(p => p !== null) ? sumOf(parts) : null
  }
  /** How far a take of several sources lies from what takes of each alone foresaw; null where that is not known. */
  function sumApart(take: Take, measured: Curve): number | null {
    const sum = sumOfAlone(take)
    return sum && apart(sum.curve, measured)
  }
  return { partsOf, predictionOf, whyUnforeseen, asUnder, aloneAt, foreseen, sumApart }
}
/** Parts of an octave over which predicted and measured are compared. */
const smoothing = 12
