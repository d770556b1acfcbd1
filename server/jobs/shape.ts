import type { ShapeJob } from '../../core/contract/analysis'
import { wishOf } from '../../core/contract/shape'
import { standardGrid } from '../../core/dsp'
import { fitFilters, shapeResponse } from '../../core/tune'
import { json, type AnalysisAnswer } from './answer'
import { levelOf, phaseOf } from './text'

/** A complex response as text, as exact as it was computed: level in dB (-300 where it is silent), phase in degrees. */
function responseText({ sampleRate, frequencies, blocks }: Extract<ShapeJob, { what: 'response' }>['body']): string {
  const at = frequencies ? Float64Array.from(frequencies) : standardGrid.filter(f => f <= sampleRate / 2)
  const { re, im } = shapeResponse(blocks, sampleRate, at)
  const lines = Array.from(at, (f, k) => `${f},${levelOf(re[k]!, im[k]!)},${phaseOf(re[k]!, im[k]!)}`)
  return `frequency_hz,magnitude_db,phase_deg\n${lines.join('\n')}\n`
}

/** One analysis that needs no recording. Throws RangeError with what is wrong with what was asked. */
export function shape(job: ShapeJob): AnalysisAnswer {
  if (job.what === 'response') return { type: 'text/csv', body: responseText(job.body), headers: {} }
  return json(fitFilters(wishOf(job.body)))
}
