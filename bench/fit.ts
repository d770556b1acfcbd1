import { spawnSync } from 'node:child_process'
import { applySections, logGrid, peaking, seededRandom, unity } from '../core/dsp'
import { fitFilters, type FitTask } from '../core/tune'
import { decibelsOf } from '../core/units'

// npm run bench -- fit: 40 made responses, Kovrin's fit against scipy's (trf, best of eight starts, same bounds)

interface Case {
  levels: Float64Array
  grid: Float64Array
  wish: FitTask
}

/** A response as of a room, with limits, by its number: 20 Hz to 16 kHz, 3 to 10 filters. */
function caseOf(seed: number): Case {
  const random = seededRandom(seed)
  const sampleRate = [44_100, 48_000, 96_000][seed % 3]!
  const [low, high] = [[20, 800], [30, 500], [20, 16_000], [100, 10_000]][seed % 4] as [number, number]
  const grid = logGrid(48, low, high)
  const levels = new Float64Array(grid.length)
  const bumps = 6 + Math.floor(random() * 20)
  for (let n = 0; n < bumps; n++) {
    const f = low * (high / low) ** random()
    const curve = unity(grid)
    applySections(curve, [peaking(f, (random() - 0.5) * 16, 0.4 + 12 * random() ** 2, sampleRate)], sampleRate)
    curve.re.forEach((re, k) => {
      levels[k]! += decibelsOf(Math.hypot(re, curve.im[k]!)) + 0.3 * (random() - 0.5)
    })
  }
  const wish: FitTask = {
    sampleRate,
    curves: [{ frequencies: grid, levels }],
    target: 'flat',
    range: [low, grid.at(-1)!],
    bands: 3 + (seed % 8),
    gain: [[-18, 12], [-12, 6], [-18, 0]][seed % 3] as [number, number],
    q: [[0.4, 12], [0.3, 20]][seed % 2] as [number, number],
    kinds: ['peaking'],
    fill: true,
  }
  return { levels, grid, wish }
}

function scipyFit({ levels, grid, wish: { bands, gain, q, sampleRate } }: Case): { rms: number, seconds: number } {
  const code = 'import json, sys; sys.path.insert(0, "core/reference"); import scipy_service; '
    + 'print(json.dumps(scipy_service.fit_peaking(**json.load(sys.stdin))))'
  const wanted = Array.from(levels, level => -level)
  const input = JSON.stringify({ frequencies: [...grid], wanted, bands, rate: sampleRate, gain, q, level: 1 })
  const done = spawnSync('/usr/bin/python3', ['-c', code], { input, encoding: 'utf8' })
  if (done.status !== 0) throw new Error(done.stderr)
  return JSON.parse(done.stdout)
}

const first = 101
const cases = Number(process.argv[2] ?? 40)
const rows = Array.from({ length: cases }, (_, n) => {
  const one = caseOf(first + n)
  const begun = performance.now()
  const { after } = fitFilters(one.wish)
  const seconds = (performance.now() - begun) / 1000
  const theirs = scipyFit(one)
  const error = after / theirs.rms
  const row = { case: first + n, filters: one.wish.bands, error, seconds, theirs: theirs.seconds }
  console.log(row.case, `${row.filters} filters, error ${row.error.toFixed(3)} of scipy’s,`
  + ` ${row.seconds.toFixed(2)} s to ${row.theirs.toFixed(2)} s`)
  return row
})
const sum = (of: (r: (typeof rows)[number]) => number) => rows.reduce((s, r) => s + of(r), 0)
const within = rows.filter(r => r.error <= 1.02).length
const worst = Math.max(...rows.map(r => r.error)).toFixed(3)
const faster = (sum(r => r.theirs) / sum(r => r.seconds)).toFixed(0)
console.log(`${within} of ${cases} at most 1.02 times scipy’s error; worst ${worst}; time 1/${faster}`)
