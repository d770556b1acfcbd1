import { standardGrid } from '~~/core/dsp'
import type { Frame, TakeReady } from '~~/core/contract'
import type { Level, Tap } from '~~/core/measure'
import { unknownFeed } from '~~/core/rig'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { useCorrections } from './corrections'
import { useInputs } from './inputs'
import { useSets } from './sets'
import { message } from '~~/core/words'

/** What is known of the running measurements when a take of them comes in. */
export interface MeasuredNow {
  /** Of the newest restart: a take of an older average belongs to other settings. */
  mark: number
  /** Number of the site's newest change when the average began. */
  since: number
  meters: ReadonlyMap<Tap, Level>
  frames: Readonly<Record<string, Frame>>
  trim: number
}

/** Keeps what the analysis hands over of a running measurement as a take. */
export function useKeepLive() {
  const view = useView()
  const notices = useNotices()
  const inputs = useInputs()
  const sets = useSets()
  const corrections = useCorrections()

  return async function keep(answer: TakeReady, now: MeasuredNow) {
    if (answer.mark !== now.mark)
      return notices.say(
        'error',
        message('take.settingsMoved'),
      )
    const m = sets.rows.find(x => x.id === answer.id)
    const position = m && sets.placeOf(m)
    if (!m || !position || !view.cell)
      return notices.say('error', message('take.measurementGone'))
    const level = (tap: Tap) => {
      const rms = now.meters.get(tap)?.rms
      return rms !== undefined && Number.isFinite(rms) ? rms : null
    }
    const { re, im, coherence, averages, sampleRate, length, blocks, arrival, impulse: samples, impulseStart } = answer
    const curve = corrections.corrected({ frequencies: standardGrid, re, im, coherence, averages }, m.microphone)
    const response = { samples, sampleRate, start: impulseStart }
    const frame = now.frames[m.id]
    const kept = await useTakes().store({ curve, impulse: response, harmonics: [], signalToNoise: [] }, {
      source: view.cell.source,
      position: position.id,
      only: null,
      feed: sets.feedOf(m) ?? unknownFeed,
      number: now.since,
      info: {
        method: 'live',
        input: inputs.labelOf(m.microphone, true),
        sampleRate,
        length,
        blocks,
        arrival,
        microphoneLevel: level(m.microphone),
        referenceLevel: level(m.reference),
        sweep: null,
      },
      timing: {
        reference: m.reference,
        sameClock: !sets.clocks(m),
        drift: frame?.compensated ? frame.drift : null,
        delay: answer.delay,
      },
    })
    if (kept && now.trim) await useTakes().change(kept.id, { offset: now.trim })
  }
}
