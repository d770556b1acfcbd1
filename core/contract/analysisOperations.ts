import { AlignAnswer } from './alignForm'
import { queries } from './analysis'
import { FitAnswer, FitBody, ResponseBody } from './shape'
import { bytes, type Operation } from './operation'

const wav = bytes('audio/wav', 'A WAV file')

const refusedAnalysis = {
  400: 'An option is wrong',
  408: 'The rest of the body did not come',
  413: 'The file is too large',
  422: 'The recording cannot be analysed',
  429: 'Too much of this asker’s own is under way; retry-after says when to ask again',
  503: 'Too many analyses wait; retry-after says when to ask again',
}

const refusedParts = {
  ...refusedAnalysis,
  400: 'The form or its part options is not understood',
  422: 'The files do not go together, or what is asked of them cannot be: which, and why',
}
const sources = bytes(
  'multipart/form-data',
  'One WAV part a source (its name is the source; one channel a position, all with the same positions and rate, sample '
  + '0 at the same moment), and a part options with JSON',
)

const refusedShape = {
  400: 'The body is not understood',
  408: refusedAnalysis[408],
  413: 'The body is too large',
  415: 'The body is not called JSON',
  422: 'What is asked cannot be: which block or limit, and why',
  429: refusedAnalysis[429],
  503: refusedAnalysis[503],
}

/** What can be asked about recordings, filters and curves, without a site. */
export const analysisOperations = {
  transfer: {
    method: 'post',
    path: '/api/analysis/transfer',
    tag: 'analysis',
    summary: 'Transfer function with coherence of a two-channel recording',
    query: queries.transfer,
    body: wav,
    answer: bytes(
      'text/csv',
      'frequency_hz, magnitude_db, phase_deg, coherence, confidence_db (95 of 100 measurements lie within so much of '
      + 'the level); the arrival in x-kovrin-arrival-ms, what speaks against the figures in x-kovrin-warnings',
    ),
    errors: refusedAnalysis,
  },
  sweep: {
    method: 'post',
    path: '/api/analysis/sweep',
    tag: 'analysis',
    summary: 'Impulse response, signal-to-noise, harmonics, decay times and STI of a recorded exponential sweep',
    query: queries.sweep,
    body: wav,
    answer: bytes('application/json', 'Figures; with answer=wav the impulse response as audio/wav (32-bit float)'),
    errors: refusedAnalysis,
  },
  decay: {
    method: 'post',
    path: '/api/analysis/decay',
    tag: 'analysis',
    summary: 'Decay times (EDT, T20, T30), C50, C80, D50 per band and STI of an impulse response',
    query: queries.decay,
    body: wav,
    answer: bytes('application/json', 'Figures by band'),
    errors: refusedAnalysis,
  },
  bands: {
    method: 'post',
    path: '/api/analysis/bands',
    tag: 'analysis',
    summary: 'Level per fractional-octave band',
    query: queries.bands,
    body: wav,
    answer: bytes('application/json', 'dBFS by band'),
    errors: refusedAnalysis,
  },
  level: {
    method: 'post',
    path: '/api/analysis/level',
    tag: 'analysis',
    summary: 'Sound level: now, equivalent, largest, peak',
    query: queries.level,
    body: wav,
    answer: bytes('application/json', 'Levels'),
    errors: refusedAnalysis,
  },
  response: {
    method: 'post',
    path: '/api/analysis/response',
    tag: 'analysis',
    summary: 'Response of filters, gains, delays and FIR coefficients one after the other',
    body: ResponseBody,
    answer: bytes('text/csv', 'frequency_hz, magnitude_db (-300 where it is silent), phase_deg'),
    errors: refusedShape,
  },
  fit: {
    method: 'post',
    path: '/api/analysis/fit',
    tag: 'analysis',
    summary: 'Filters that bring the weighted mean of curves nearest to a target, and what they leave alone and why',
    body: FitBody,
    answer: FitAnswer,
    errors: refusedShape,
  },
  align: {
    method: 'post',
    path: '/api/analysis/align',
    tag: 'analysis',
    summary: 'Delay, polarity and level of one source for its best sum with another over all positions; options: '
      + 'reference, move, delay, step?, polarity, level?, band?, weights?, worst?',
    body: sources,
    answer: AlignAnswer,
    errors: refusedParts,
  },
  sum: {
    method: 'post',
    path: '/api/analysis/sum',
    tag: 'analysis',
    summary: 'Complex sum of sources at every position; options: sources by name, each with gain, delay, polarity',
    body: sources,
    answer: bytes('text/csv', 'position, frequency_hz, magnitude_db (-300 where it is silent), phase_deg'),
    errors: refusedParts,
  },
} as const satisfies Record<string, Operation>
