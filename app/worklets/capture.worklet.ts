import { createGenerator } from '~~/core/dsp'
import { openRing, ringWriter } from '~~/core/measure'
import * as v from 'valibot'
import { CaptureRequest } from '~~/core/contract/workers/generating'

declare const sampleRate: number
declare function registerProcessor(name: string, processor: unknown): void
declare class AudioWorkletProcessor {
  readonly port: MessagePort
}

/**
 * The picked channels of real inputs into the ring, and Kovrin's own noise out; both in one place, so that they
 * share one clock.
 */
class Capture extends AudioWorkletProcessor {
  private generator = createGenerator(sampleRate, 20)
  private writer: ReturnType<typeof ringWriter> | null = null
  private taps: Extract<CaptureRequest, { type: 'open' }>['taps'] = []
  private noise = new Float32Array(128)
  private channels: Float32Array[] = []
  private silence = new Float32Array(128)

  constructor() {
    super()
    this.port.onmessage = (event: MessageEvent<unknown>) => {
      const request = v.parse(CaptureRequest, event.data)
      if (request.type === 'open') {
        this.writer = ringWriter(openRing(request.buffer))
        this.taps = request.taps
        this.channels = request.taps.map(() => this.silence)
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
    for (let k = 0; k < this.taps.length; k++) {
      const tap = this.taps[k]!
      this.channels[k] = tap === 'generator' ? this.noise : (inputs[tap.input]?.[tap.channel] ?? this.silence)
    }
    this.writer?.write(this.channels, 128)
    return true
  }
}

registerProcessor('kovrin-capture', Capture)
