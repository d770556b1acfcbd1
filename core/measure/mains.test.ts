import { describe, expect, it } from 'vitest'
import { pinkNoise, seededRandom } from '../dsp'
import { cases } from '../reference/cases'
import { createHumEar } from './index'

const rate = 48_000

/** What is told of a hall of pink noise with lines in it, after four blocks. */
function told(seed: number, line: (n: number) => number, sampleRate = rate) {
  const ear = createHumEar(sampleRate)
  const noise = pinkNoise(sampleRate, seed)
  for (let block = 0; block < 4; block++) {
    const part = new Float32Array(ear.length)
    noise(part)
    ear.push(part.map((v, n) => 0.001 * v + line(block * ear.length + n)))
  }
  const { known, hum } = ear.read()
  expect(known).toBe(true)
  return hum
}
const lines = (frequencies: readonly number[], level: number, sampleRate = rate) => (n: number) =>
  frequencies.reduce((sum, f, k) => sum + (level / (1 + 0.3 * k)) * Math.sin((2 * Math.PI * f * n) / sampleRate + k), 0)
const seeds = (count: number) => Array.from({ length: count }, (_, n) => n + 1)

describe('mains hum, told by its frequencies', () => {
  it.each([
    ['hum of 50 Hz', 50, [1, 2, 3]],
    ['hum of 60 Hz', 60, [1, 2, 3, 5]],
    ['buzz of a dimmer', 50, [2, 4, 6]],
    ['buzz of a dimmer at 60 Hz', 60, [2, 4, 6]],
  ] as const)('%s is told, also where the grid is off by 0.15 %%', (_, mains, multiples) => {
    for (const seed of seeds(6)) {
      const off = 1 + 0.0005 * ((seed % 7) - 3)
      expect(told(seed, lines(multiples.map(n => n * mains * off), 0.0005 * (1 + (seed % 4)))))
        .toEqual({ mains, lines: multiples.map(n => n * mains) })
    }
    const at = 44_100
    expect(told(9, lines(multiples.map(n => n * mains), 0.002, at), at)?.mains).toBe(mains)
  })
  it('nothing else hums: noise, fans, motors and music, none of a hundred', () => {
    const random = seededRandom(5)
    const slow = 8000
    const fan = () => {
      // one that runs with the mains' own frequency is no other sound than theirs
      let f = 60
      const isMains = () => [50, 60].some(m => Math.abs(((f / m + 0.5) % 1) - 0.5) < 0.005)
      while (isMains()) f = 23 + 180 * random()
      return lines([1, 2, 3, 4, 5, 6].map(n => n * f), 0.002, slow)
    }
    const motor = () => lines([147, 294, 441], 0.003 * random(), slow)
    const blower = () => lines([97, 194, 291], 0.003 * random(), slow)
    const one = () => lines([[50, 100, 60, 120][Math.floor(4 * random())]!], 0.002, slow)
    const chord = () => lines([0, 1, 2, 3].map(() => 55 * 2 ** (Math.floor(random() * 36) / 12)), 0.005, slow)
    const kinds = [() => () => 0, fan, fan, motor, blower, one, chord]
    expect(seeds(cases(210, 70)).filter(seed => told(seed, kinds[seed % kinds.length]!(), slow) !== null)).toEqual([])
  })
  it('lines that do not stay do not hum, and a short silence tells nothing', () => {
    const comes = (n: number) => (n < 2 * rate ? 1 : 0.01) * lines([50, 100, 150], 0.002)(n)
    expect(told(3, comes)).toBeNull()
    const ear = createHumEar(rate)
    ear.push(new Float32Array(ear.length))
    expect(ear.read()).toEqual({ known: false, hum: null })
  })
})
