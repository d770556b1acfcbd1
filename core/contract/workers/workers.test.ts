import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { AnalysisRequest, CaptureRequest, FiguresRequest, FileAnswer, Frame, SpectrumNow } from './index'

const frame = {
  type: 'frame',
  id: 'a',
  mark: 3,
  curve: {
    re: new Float64Array(4),
    im: new Float64Array(4),
    coherence: new Float64Array(4),
    averages: new Float64Array(4),
  },
  blocks: 2.5,
  delay: 0.01,
  arrival: { time: 0.01, polarity: -1, uncertainty: 1e-6, band: [40, 18_000] },
  searching: false,
  paused: false,
  assumed: false,
  gaps: { dropped: 0, lost: 0, poor: 0 },
  drift: null,
  compensated: false,
  complete: true,
}

describe('what goes to and from the workers', () => {
  it('is taken as it is: the samples are the same array, not a copy', () => {
    const parsed = v.parse(Frame, frame)
    expect(parsed).toEqual(frame)
    expect(parsed.curve!.re).toBe(frame.curve.re)
    const samples = new Float32Array(3)
    expect(v.parse(SpectrumNow, { type: 'spectrum', channels: new Map([[2, samples]]) }).channels.get(2)).toBe(samples)
  })
  it.each<[string, v.GenericSchema, unknown]>([
    ['a request that nobody knows', AnalysisRequest, { type: 'dance' }],
    ['a delay that is no number', AnalysisRequest, { type: 'delay', seconds: NaN }],
    ['a restart without its mark', AnalysisRequest, { type: 'restart', ago: 0 }],
    ['a sweep that is to be repeated no time', AnalysisRequest, { type: 'record', plan: {}, repeats: 0 }],
    ['a ring that is no shared memory', CaptureRequest, { type: 'open', buffer: new ArrayBuffer(8), taps: [] }],
    ['a channel under the first', CaptureRequest, {
      type: 'open',
      buffer: new SharedArrayBuffer(8),
      taps: [{ input: -1, channel: 0 }],
    }],
    ['doubles where single precision is meant', FiguresRequest, {
      id: 1,
      samples: new Float64Array(4),
      sampleRate: 48_000,
      start: 0,
      what: { kind: 'envelope' },
    }],
    ['bands of half an octave', FiguresRequest, {
      id: 1,
      samples: new Float32Array(4),
      sampleRate: 48_000,
      start: 0,
      what: { kind: 'decay', part: 2 },
    }],
    ['a failure without a reason', FileAnswer, { ok: false }],
    ['a curve without its coherence', Frame, { ...frame, curve: { re: new Float64Array(4), im: new Float64Array(4) } }],
    ['a polarity of nought', Frame, { ...frame, arrival: { ...frame.arrival, polarity: 0 } }],
  ])('%s is refused', (_, schema, message) => {
    expect(v.safeParse(schema, message).success).toBe(false)
  })
})
