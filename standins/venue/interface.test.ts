import { describe, expect, it } from 'vitest'
import { distance, speedOfSound } from '../../core/acoustics'
import { createInterpolator, realFft, standardGrid } from '../../core/dsp'
import { createFollower, createLive, createRing, levelOf, measuredCurve, ringWriter } from '../../core/measure'
import { cases } from '../../core/reference/cases'
import { scipy } from '../../core/reference/scipy'
import { blockSize } from './convolver'
import { createProgramme } from './programme'
import { createInterface } from './interface'
import { simulatedTaps, usbClock } from './offers'
import { delivered, edited, fast, hall, plan, positions, sources } from './testHall'

/** Only the console’s left and Kovrin’s own signal reach a loudspeaker, and the same one. */
const leftOnly = edited(delivered, Object.fromEntries(
  ['/matrix/2/2', '/matrix/2/3', '/matrix/3/4', '/matrix/3/5'].map(path => [path, undefined])))

const [mix, mid] = [positions[0]!.place, positions[1]!.place]
/** Close before the loudspeaker that sounds, where the room says little. */
const hung = sources[0]!.elements[0]!.place
const near = { x: hung.x + 1.6, y: hung.y, z: hung.z - 0.5 }
const play = (
  seconds: number,
  places: Parameters<typeof createInterface>[3],
  set: (i: ReturnType<typeof createInterface>) => void,
  each?: (channels: Float32Array[], at: number) => void,
) => {
  const sound = createInterface(fast, hall, leftOnly, places)
  const channels = simulatedTaps.map(() => new Float32Array(blockSize))
  set(sound)
  for (let n = 0; n < (seconds * sound.sampleRate) / blockSize; n++) {
    sound.process(channels)
    each?.(channels, ((n + 1) * blockSize) / sound.sampleRate)
  }
  return channels
}
const noise = (sound: ReturnType<typeof createInterface>) => {
  sound.generator.level(-20)
  sound.generator.start()
}

describe('the simulated interface', () => {
  it('gives microphones where they stand, the loopback, and a converter’s noise on what is not connected', () => {
    const channels = play(1.5, [mix, null, mid, null], noise)
    const level = (n: number) => levelOf(channels[n]!).rms
    for (const n of [0, 2]) expect(level(n)).toBeGreaterThan(-60)
    const still = -103 // nothing but the converters' own noise
    for (const n of [1, 4, 5, 6, 7, 8]) expect(level(n)).toBeLessThan(still)
    for (const n of [1, 4, 5, 6, 7, 8]) expect(level(n)).toBeGreaterThan(-110)
    expect(level(3)).toBeCloseTo(level(9), 1)
  })
  it('takes the rig’s feed and the loopback from output 1 alone', () => {
    const channels = play(1, [mix, null, null, null], (sound) => {
      noise(sound)
      sound.output(3)
    })
    expect(levelOf(channels[9]!).rms).toBeGreaterThan(-25)
    expect(levelOf(channels[3]!).rms).toBeLessThan(-103)
    expect(levelOf(channels[0]!).rms).toBeLessThan(-70) // the hall's own noise
  })
  it('amplifies a channel by its gain, and clips as a converter does', () => {
    const [plain, quiet, loud] = [0, -24, 70].map(
      gain =>
        play(1, [mix, null, null, null], (sound) => {
          noise(sound)
          sound.gain(0, gain)
        })[0]!,
    )
    expect(levelOf(quiet!).rms - levelOf(plain!).rms).toBeCloseTo(-24, 2)
    expect(levelOf(loud!).peak).toBe(0)
  })

  it('music from the console is as good a reference as noise where it has energy: the same response, and pauses '
    + 'that cost nothing', () => {
    const trace = (music: boolean) => {
      const ring = createRing(48_000, 2, 2 ** 19)
      const writer = ringWriter(ring)
      const live = createLive(ring, {
        reference: 1,
        microphone: 0,
        length: 2 ** 14,
        overlap: 0.75,
        averaging: { kind: 'all' },
      })
      let found = false
      play(
        cases(18, 10),
        [near, null, null, null],
        (sound) => {
          if (music) sound.programme(true)
          else noise(sound)
        },
        (channels, at) => {
          writer.write([channels[0]!, channels[music ? 4 : 3]!], blockSize)
          const arrival = !found && at > 1.5 ? live.findArrival() : null
          if (arrival) {
            found = true
            live.setDelay(arrival.time)
          }
          live.poll()
        },
      )
      const curve = measuredCurve(standardGrid)
      live.read(curve)
      return { curve, delay: live.delay }
    }
    const a = trace(false)
    const b = trace(true)
    expect(Math.abs(a.delay - b.delay)).toBeLessThan(0.0002)
    let trusted = 0
    standardGrid.forEach((f, k) => {
      if (f < 100 || f > 8000 || b.curve.coherence[k]! < 0.95 || a.curve.coherence[k]! < 0.95) return
      trusted++
      expect(
        Math.abs(
          20 * Math.log10(Math.hypot(b.curve.re[k]!, b.curve.im[k]!) / Math.hypot(a.curve.re[k]!, a.curve.im[k]!)),
        ),
        `${f} Hz`,
      ).toBeLessThan(2)
    })
    expect(trusted).toBeGreaterThan(40)
  })

  it('the second device runs by its own clock, and the drift is found from the arrivals alone', () => {
    const ring = createRing(48_000, 3, 2 ** 19)
    const writer = ringWriter(ring)
    const make = (microphone: number) =>
      createLive(ring, {
        reference: 1,
        microphone,
        length: 2 ** 14,
        overlap: 0.5,
        averaging: { kind: 'blocks', count: 8 },
      })
    const live = make(0)
    const sameClock = make(2)
    const follower = createFollower(live)
    let found = false
    let next = 4
    const seconds = cases(22, 14)
    play(seconds, [near, null, null, near], noise, (channels, at) => {
      writer.write([channels[8]!, channels[3]!, channels[0]!], blockSize)
      const arrival = !found && at > 1.5 ? live.findArrival() : null
      if (arrival) {
        found = true
        live.setDelay(arrival.time)
        sameClock.setDelay(sameClock.findArrival()!.time)
      }
      live.poll()
      sameClock.poll()
      if (!found || at < next) return
      next += 0.25
      const now = live.trackArrival()
      if (now) follower.heard(at, now.time, false, true)
    })
    expect(Math.abs(follower.drift! - usbClock)).toBeLessThan(2)
    const flight = distance(hung, near) / speedOfSound(plan.air)
    // the electronics and the converter, no more
    expect(live.delay - flight - seconds * usbClock * 1e-6).toBeLessThan(0.004)
    // followed, the slow drift costs no trust: as much coherence as one clock gives
    const trust = [live, sameClock].map((measured) => {
      const curve = measuredCurve(standardGrid)
      const high = [...standardGrid.keys()].filter(k => standardGrid[k]! > 4000 && standardGrid[k]! < 12_000)
      measured.read(curve)
      return high.reduce((s, k) => s + curve.coherence[k]!, 0) / high.length
    })
    expect(trust[0]).toBeGreaterThan(trust[1]! - 0.03)
  })
})

describe('the console’s music', () => {
  it('is silent until it is switched on, then as loud as it says, in stereo, with a pause between the songs, and '
    + 'the same every time', () => {
    const programme = createProgramme(48_000)
    const second = () => {
      const sides = [new Float32Array(48_000), new Float32Array(48_000)] as const
      programme.fill(...sides)
      return sides
    }
    expect(second().every(side => side.every(v => v === 0))).toBe(true)
    programme.play(true)
    const song = Array.from({ length: 16 }, second)
    const rms = song.map(([left]) => levelOf(left).rms)
    expect(10 * Math.log10(rms.slice(0, 14).reduce((sum, l) => sum + 10 ** (l / 10), 0) / 14)).toBeCloseTo(-18, 0)
    expect(rms[15]).toBeLessThan(-50) // the pause
    expect(song[3]![0]).not.toEqual(song[3]![1])
    expect(Math.max(...song.map(([left]) => levelOf(left).peak))).toBeLessThan(0)
    const again = Array.from({ length: 4 }, second)
    expect(again[3]![0]).toEqual(song[3]![0])
    programme.play(false)
    expect(levelOf(second()[0].subarray(0, 2400)).rms).toBeGreaterThan(-60) // it fades, it does not stop dead
    expect(second()[0].every(v => v === 0)).toBe(true)
  })
})

describe('reading between samples', () => {
  const size = 4096
  const { read } = createInterpolator()
  it('finds a sine’s value at any fraction within -90 dB up to 0.4 of the rate', () => {
    for (const f of [0.001, 0.1, 0.25, 0.4]) {
      const ring = Float32Array.from({ length: size }, (_, n) =>
        Math.sin(((2 * Math.PI * Math.round(f * size)) / size) * n),
      ) // periodic in the ring
      for (let p = 100; p < 140; p += 0.317)
        expect(
          Math.abs(read(ring, size - 1, p) - Math.sin(((2 * Math.PI * Math.round(f * size)) / size) * p)),
          `${f} at ${p}`,
        ).toBeLessThan(3e-5)
    }
  })
  it('agrees with scipy.signal.resample of band-limited noise at half samples', async () => {
    const fft = realFft(size)
    const re = new Float64Array(size / 2 + 1)
    const im = new Float64Array(size / 2 + 1)
    const x = new Float64Array(size)
    for (let k = 1; k < size * 0.4; k++) {
      re[k] = Math.cos(k * k)
      im[k] = Math.sin(k * k)
    }
    fft.inverse(re, im, x)
    const twice = await scipy<number[]>('resample', { x: Array.from(x), num: 2 * size })
    const ring = Float32Array.from(x)
    const most = x.reduce((m, v) => Math.max(m, Math.abs(v)), 0)
    for (let n = 0; n < size; n += 37)
      expect(Math.abs(read(ring, size - 1, n + 0.5) - twice[2 * n + 1]!) / most).toBeLessThan(1e-4)
  })
})
