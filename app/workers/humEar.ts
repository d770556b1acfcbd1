import { createHumEar, levelOf, type Ring, type ringReader } from '~~/core/measure'
import type { HumNow } from '~~/core/contract'

/** RMS in dBFS over which a reference sounds: what hums is told in silence. */
const silence = -75

/** Listens for hum at a microphone, block after block, while its reference is silent. */
export function createHumWatch(ring: Ring, reader: ReturnType<typeof ringReader>) {
  const ear = createHumEar(ring.sampleRate)
  const [heard, played] = [new Float32Array(ear.length), new Float32Array(ear.length)]
  let at = reader.written()
  let channels = ''
  /** The room still rings from what sounded. */
  let rings = true
  const again = () => {
    ear.forget()
    rings = true
  }
  return {
    /** Takes the next block, once it is there; what is new, or null. */
    step(microphone: number, reference: number): HumNow | null {
      const written = reader.written()
      const wanted = `${microphone},${reference}`
      if (wanted !== channels || written - at > ring.capacity) {
        channels = wanted
        at = written
        again()
      }
      if (written - at < ear.length) return null
      const isWhole = reader.read(microphone, at, heard) && reader.read(reference, at, played)
      at += ear.length
      if (!isWhole || levelOf(played).rms > silence) again()
      else if (rings) rings = false
      else ear.push(heard)
      return { type: 'hum', ...ear.read() }
    },
  }
}
