import { curveOfText, readCurveText } from '~~/core/formats/curveText'
import { readWav } from '~~/core/formats/wav'
import { curveOfImpulse, standardGrid } from '~~/core/dsp'
import { onset, transferOf } from '~~/core/measure'
import { FileRequest, type FileAnswer, type FileRead } from '~~/core/contract/workers/files'
import { serve } from './line'
import { toldOf } from '~~/core/words'

/** Reads measurements from files: text curves, impulse responses, recordings of microphone and reference. */
function read({ name, bytes }: FileRequest): FileRead {
  if (/\.wav$/i.test(name)) {
    const { sampleRate, channels } = readWav(new Uint8Array(bytes))
    const [first, second] = channels as [Float32Array, Float32Array | undefined]
    if (second) {
      const result = transferOf(second, first, sampleRate, {
        length: 'multi',
        averaging: { kind: 'all' },
        delay: 'auto',
      })
      const { length } = result.impulse
      const early = length / 8
      return {
        curve: result.curve,
        impulse: Float32Array.from({ length }, (_, n) => result.impulse[(n - early + length) % length]!),
        sampleRate,
        start: -early / sampleRate,
        blocks: Math.max(1, result.blocks),
        arrival: result.arrival?.time ?? null,
        delay: result.delay,
        note: 'recording: microphone on channel 1, reference on channel 2',
      }
    }
    const at = onset(first)
    const impulse = first.subarray(0, 2 ** 20)
    return {
      curve: curveOfImpulse(impulse.subarray(0, 2 ** 17), sampleRate, -at / sampleRate, standardGrid),
      impulse: Float32Array.from(impulse),
      sampleRate,
      start: -at / sampleRate,
      blocks: 1,
      arrival: at / sampleRate,
      delay: at / sampleRate,
      note: 'impulse response',
    }
  }
  const text = readCurveText(new TextDecoder().decode(bytes))
  return {
    curve: curveOfText(text),
    impulse: new Float32Array(0),
    sampleRate: 48_000,
    start: 0,
    blocks: 1,
    arrival: null,
    delay: 0,
    note: text.phase ? 'curve from text' : 'curve from text, without phase',
  }
}

const post = (answer: FileAnswer) => self.postMessage(answer)
serve(FileRequest, (request) => {
  try {
    post({ ok: true, answer: read(request) })
  }
  catch (error) {
    post({ ok: false, why: toldOf(error) })
  }
})
