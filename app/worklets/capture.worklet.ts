import { createGenerator } from '~~/core/dsp'
import { openRing, ringWriter } from '~~/core/measure'
import type { CaptureRequest } from '../workers/messages'

declare const sampleRate: number
declare function registerProcessor(name: string, processor: unknown): void
declare class AudioWorkletProcessor { readonly port: MessagePort }

/** Real inputs into the ring (0: microphone, 1: reference), and Kovrin's own noise out; both in one place, so that they share one clock. */
class Capture extends AudioWorkletProcessor {
  private generator = createGenerator(sampleRate, 20)
  private writer: ReturnType<typeof ringWriter> | null = null
  private microphone = 0
  private reference: number | 'generator' = 1
  private noise = new Float32Array(128)
  private pair: [Float32Array, Float32Array] = [new Float32Array(128), new Float32Array(128)]
  private silence = new Float32Array(128)

  constructor() {
    super()
    this.port.onmessage = (event: MessageEvent<CaptureRequest>) => {
      const request = event.data
      if (request.type === 'open') {
        this.writer = ringWriter(openRing(request.buffer))
        this.microphone = request.microphone
        this.reference = request.reference
      }
      else if (request.type === 'hush') this.generator.hush()
      else if (request.type === 'signal') this.generator.signal(request.signal)
      else if (request.type === 'sweep') this.generator.sweep(request.plan)
      else {
        this.generator.level(request.level)
        if (request.on) this.generator.start()
        else this.generator.stop()
      }
    }
  }

  process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    this.generator.fill(this.noise)
    for (const channel of outputs[0]!) channel.set(this.noise)
    const input = inputs[0]!
    this.pair[0] = input[this.microphone] ?? this.silence
    this.pair[1] = this.reference === 'generator' ? this.noise : input[this.reference] ?? this.silence
    this.writer?.write(this.pair, 128)
    return true
  }
}

registerProcessor('kovrin-capture', Capture)
