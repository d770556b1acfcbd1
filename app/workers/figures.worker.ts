import { envelope, logGrid } from '~~/core/dsp'
import { arrivalsOf, decayMap, decayTimes, fallTimes, speechTransmission } from '~~/core/measure'
import { FiguresRequest, type FiguresAnswer } from '~~/core/contract/workers/figures'
import { serve } from './line'

/**
 * Figures of impulse responses: decay times per band, decay over frequency, arrivals. One at a time, the newest
 * wish last.
 */
serve(FiguresRequest, ({ id, samples, sampleRate, start, what }) => {
  if (what.kind === 'envelope') {
    const answer: FiguresAnswer = { id, envelope: envelope(samples), arrivals: [] }
    return self.postMessage(answer, { transfer: [answer.envelope!.buffer] })
  }
  const arrivals = arrivalsOf(samples, sampleRate, start)
  if (what.kind === 'decay')
    self.postMessage({
      id,
      arrivals,
      decay: {
        bands: decayTimes(samples, sampleRate, what.part),
        sti: speechTransmission(samples, sampleRate, what.levels ?? undefined),
        levels: what.levels !== null,
      },
    } satisfies FiguresAnswer)
  else {
    const map = decayMap(
      samples,
      sampleRate,
      Math.round(-start * sampleRate),
      logGrid(24, what.low, what.high),
      what.length,
      60,
      what.window,
    )
    self.postMessage({ id, arrivals, map: { ...map, falls: fallTimes(map, 20) } } satisfies FiguresAnswer)
  }
})
