/** What is to be brought near zero: residuals of a point and their derivatives by each unknown. */
export interface Problem {
  unknowns: number
  residuals: number
  low: Float64Array
  high: Float64Array
  /** Writes residuals of `x`; where `rows` is given, row n holds the derivatives by unknown n. */
  evaluate: (x: Float64Array, r: Float64Array, rows: readonly Float64Array[] | null) => void
}

const squares = (r: Float64Array) => {
  let sum = 0
  for (let k = 0; k < r.length; k++) sum += r[k]! * r[k]!
  return sum
}

/** Solves the positive definite `a·x = b` of size n in place by Cholesky's method; false where it is not definite. */
function solve(a: Float64Array, b: Float64Array, n: number): boolean {
  for (let i = 0; i < n; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = a[i * n + j]!
      for (let k = 0; k < j; k++) sum -= a[i * n + k]! * a[j * n + k]!
      if (i !== j) a[i * n + j] = sum / a[j * n + j]!
      else if (sum > 0) a[i * n + i] = Math.sqrt(sum)
      else return false
    }
  }
  for (let i = 0; i < n; i++) {
    let sum = b[i]!
    for (let k = 0; k < i; k++) sum -= a[i * n + k]! * b[k]!
    b[i] = sum / a[i * n + i]!
  }
  for (let i = n - 1; i >= 0; i--) {
    let sum = b[i]!
    for (let k = i + 1; k < n; k++) sum -= a[k * n + i]! * b[k]!
    b[i] = sum / a[i * n + i]!
  }
  return true
}

/**
 * Bounded Levenberg–Marquardt with exact derivatives (Marquardt 1963; unknowns at a bound that would leave it are held,
 * steps end at the bounds). Moves `x` in place to a local minimum; gives the sum of squares there. Stops after `rounds`
 * tries, or when a step gains less than `least` of the sum.
 */
export function createSolver(problem: Problem) {
  const { unknowns: n, residuals: m, low, high, evaluate } = problem
  const r = new Float64Array(m)
  const tried = new Float64Array(m)
  const rows = Array.from({ length: n }, () => new Float64Array(m))
  const normal = new Float64Array(n * n)
  const gradient = new Float64Array(n)
  const damped = new Float64Array(n * n)
  const step = new Float64Array(n)
  const next = new Float64Array(n)
  const free = new Int32Array(n)

  const linearise = (x: Float64Array) => {
    evaluate(x, r, rows)
    for (let i = 0; i < n; i++) {
      const a = rows[i]!
      let g = 0
      for (let k = 0; k < m; k++) g += a[k]! * r[k]!
      gradient[i] = g
      for (let j = 0; j <= i; j++) {
        const b = rows[j]!
        let sum = 0
        for (let k = 0; k < m; k++) sum += a[k]! * b[k]!
        normal[i * n + j] = sum
        normal[j * n + i] = sum
      }
    }
  }
  /** The damped step of the free unknowns from `x` into `next`, ended at the bounds; false where there is none. */
  const propose = (x: Float64Array, damping: number): boolean => {
    let count = 0
    for (let i = 0; i < n; i++) {
      const held = (x[i]! <= low[i]! && gradient[i]! > 0) || (x[i]! >= high[i]! && gradient[i]! < 0)
      if (!held) free[count++] = i
    }
    for (let i = 0; i < count; i++) {
      for (let j = 0; j < count; j++) damped[i * count + j] = normal[free[i]! * n + free[j]!]!
      damped[i * count + i]! += damping * (normal[free[i]! * n + free[i]!]! + 1e-9)
      step[i] = -gradient[free[i]!]!
    }
    if (!count || !solve(damped, step, count)) return false
    next.set(x)
    for (let i = 0; i < count; i++) {
      const at = free[i]!
      next[at] = Math.min(high[at]!, Math.max(low[at]!, x[at]! + step[i]!))
    }
    return true
  }

  return (x: Float64Array, rounds: number, least: number): number => {
    linearise(x)
    let best = squares(r)
    let damping = 1e-2
    for (let round = 0; round < rounds && damping < 1e9; round++) {
      if (!propose(x, damping)) {
        damping *= 8
        continue
      }
      evaluate(next, tried, null)
      const sum = squares(tried)
      if (!(sum < best)) {
        damping *= 4
        continue
      }
      const gained = best - sum
      best = sum
      x.set(next)
      if (gained < least * best) break
      linearise(x)
      damping = Math.max(1e-9, damping / 5)
    }
    return best
  }
}
