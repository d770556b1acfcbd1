import { spawnSync } from 'node:child_process'
import { classical, filterInPlace, seededRandom } from '../core/dsp'
import { alignImpulses, alignVariants, type Pair, type Variant } from '../core/tune'

// npm run bench -- align: a sub and mains at 12 positions of 1 s; the search against numpy's of the same grid, and one
// over 24 crossovers

const rate = 8000
const positions = 12
const band: [number, number] = [40, 160]
const [first, step, count] = [-0.025, 2e-5, 2501]

function heard(side: 'high' | 'low', seed: number): Float32Array[] {
  const random = seededRandom(seed)
  return Array.from({ length: positions }, () => {
    const x = Float64Array.from({ length: rate }, (_, n) => 2 * (random() - 0.5) * Math.exp(-n / (0.15 * rate)))
    filterInPlace(x, classical('linkwitz-riley', side, 4, 90, rate))
    return Float32Array.from(x)
  })
}
const [reference, move] = [heard('high', 1), heard('low', 2)]
const timed = <T>(job: () => T): [T, number] => {
  const begun = performance.now()
  const made = job()
  return [made, (performance.now() - begun) / 1000]
}
const wish = { sampleRate: rate, reference, move, band, delay: [first, -first] as const, step, polarity: true }
// the middle of five, once compiled
alignImpulses(wish)
const runs = Array.from({ length: 5 }, () => timed(() => alignImpulses(wish)))
  .toSorted((a, b) => a[1] - b[1])
const [{ candidates }, own] = runs[2]!
const code = 'import json, sys; sys.path.insert(0, "core/reference"); import scipy_service; '
  + 'print(json.dumps(scipy_service.align(**json.load(sys.stdin))))'
const input = JSON.stringify({
  rate, reference: reference.map(x => [...x]), move: move.map(x => [...x]), band,
  delays: [first, step, count], polarities: [1, -1], gain: 1, weights: reference.map(() => 1),
})
const done = spawnSync('/usr/bin/python3', ['-c', code], { input, encoding: 'utf8', maxBuffer: 2 ** 28 })
if (done.status !== 0) throw new Error(done.stderr)
const truth = JSON.parse(done.stdout) as { score: number, seconds: number }
const score = 10 * Math.log10(truth.score)
console.log(`delay × polarity: ${candidates[0]!.score.toFixed(4)} dB, numpy ${score.toFixed(4)} dB; `
  + `${(own * 1000).toFixed(0)} ms, numpy ${(truth.seconds * 1000).toFixed(0)} ms: `
  + `1/${(truth.seconds / own).toFixed(0)}`)

// one value a hertz, as of responses of 1 s
const frequencies = Float64Array.from({ length: band[1] - band[0] + 1 }, (_, k) => band[0] + k)
const random = seededRandom(3)
const noise = () => Float64Array.from(frequencies, () => random() - 0.5)
const pair = (): Pair => ({ reference: { re: noise(), im: noise() }, move: { re: noise(), im: noise() } })
const task = {
  frequencies, widths: frequencies.map(() => 1), pairs: Array.from({ length: positions }, pair),
  delay: [first, -first] as const, step, polarity: true, weights: reference.map(() => 1),
}
const variants: Variant[] = Array.from({ length: 24 }, () => ({ reference: { re: noise(), im: noise() } }))
for (const worst of [undefined, -6]) {
  const [, seconds] = timed(() => alignVariants({ ...task, worst }, variants))
  console.log(`24 crossovers × 2 polarities × ${count} delays × ${positions} positions`
    + `${worst === undefined ? '' : `, none under ${worst} dB`}: ${(seconds * 1000).toFixed(0)} ms`)
}
