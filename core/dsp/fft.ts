/**
 * Fourier transforms in double precision. Written by hand since it is the only one at hand that is exact to 1e-15 in
 * plain TypeScript, allocates nothing per call and needs no asynchronous set-up; `npm run bench` holds it
 * against scipy.fft.
 * Algorithm: Stockham autosort, radix 4 with one radix-2 pass (Van Loan 1992, Computational Frameworks for the FFT).
 */

export interface ComplexFft {
  readonly size: number
  /** In place, X[k] = Σ x[n] e^(-2πi kn/N), unscaled. `re` and `im` hold `size` values each. */
  forward(re: Float64Array, im: Float64Array): void
  /** In place, x[n] = 1/N Σ X[k] e^(+2πi kn/N). */
  inverse(re: Float64Array, im: Float64Array): void
}

export interface RealFft {
  readonly size: number
  /** Real input of `size` values into `size/2 + 1` bins, bin 0 = DC, last = Nyquist, unscaled. */
  forward(input: ArrayLike<number>, re: Float64Array, im: Float64Array): void
  /** The inverse of `forward`, scaled by 1/N. `re` and `im` are left as they were. */
  inverse(re: ArrayLike<number>, im: ArrayLike<number>, output: Float64Array | Float32Array): void
}

const isPowerOfTwo = (n: number) => Number.isInteger(n) && n >= 1 && (n & (n - 1)) === 0

/** Largest size whose circle is kept: 8 MiB, and few sizes are in use. */
const keptUpTo = 2 ** 19
const circles = new Map<number, { cos: Float64Array, sin: Float64Array }>()
/** e^(-2πi k/N) for every k: the same for every transform of a size. */
function circleOf(size: number) {
  const known = circles.get(size)
  if (known) return known
  const cos = new Float64Array(size)
  const sin = new Float64Array(size)
  for (let k = 0; k < size; k++) {
    cos[k] = Math.cos((2 * Math.PI * k) / size)
    sin[k] = -Math.sin((2 * Math.PI * k) / size)
  }
  if (size <= keptUpTo) circles.set(size, { cos, sin })
  return { cos, sin }
}

/** Complex transform of `size` points. Throws RangeError unless `size` is a power of two. */
export function complexFft(size: number): ComplexFft {
  if (!isPowerOfTwo(size)) throw new RangeError(`FFT size must be a power of two, not ${size}`)
  const { cos, sin } = circleOf(size)
  const workRe = new Float64Array(size)
  const workIm = new Float64Array(size)

  const forward = (re: Float64Array, im: Float64Array) => {
    let xr: Float64Array = re
    let xi: Float64Array = im
    let yr: Float64Array = workRe
    let yi: Float64Array = workIm
    let n = size
    let s = 1
    while (n > 1) {
      if (n === 2) radix2(xr, xi, yr, yi, s)
      else radix4(xr, xi, yr, yi, n, s, cos, sin)
      const step = n === 2 ? 2 : 4
      n /= step
      s *= step
      let t = xr
      xr = yr
      yr = t
      t = xi
      xi = yi
      yi = t
    }
    if (xr !== re) {
      re.set(xr)
      im.set(xi)
    }
  }
  return {
    size,
    forward,
    inverse: (re, im) => {
      forward(im, re)
      for (let k = 0; k < size; k++) {
        re[k]! /= size
        im[k]! /= size
      }
    },
  }
}

function radix2(xr: Float64Array, xi: Float64Array, yr: Float64Array, yi: Float64Array, s: number) {
  for (let q = 0; q < s; q++) {
    const ar = xr[q]!
    const ai = xi[q]!
    const br = xr[q + s]!
    const bi = xi[q + s]!
    yr[q] = ar + br
    yi[q] = ai + bi
    yr[q + s] = ar - br
    yi[q + s] = ai - bi
  }
}

function radix4(
  xr: Float64Array,
  xi: Float64Array,
  yr: Float64Array,
  yi: Float64Array,
  n: number,
  s: number,
  cos: Float64Array,
  sin: Float64Array,
) {
  const m = n >> 2
  for (let p = 0; p < m; p++) {
    const k = p * s
    const c1 = cos[k]!
    const s1 = sin[k]!
    const c2 = cos[2 * k]!
    const s2 = sin[2 * k]!
    const c3 = cos[3 * k]!
    const s3 = sin[3 * k]!
    const i0 = s * p
    const i1 = i0 + s * m
    const i2 = i1 + s * m
    const i3 = i2 + s * m
    const o0 = 4 * s * p
    const o1 = o0 + s
    const o2 = o1 + s
    const o3 = o2 + s
    for (let q = 0; q < s; q++) {
      const ar = xr[i0 + q]!
      const ai = xi[i0 + q]!
      const br = xr[i1 + q]!
      const bi = xi[i1 + q]!
      const cr = xr[i2 + q]!
      const ci = xi[i2 + q]!
      const dr = xr[i3 + q]!
      const di = xi[i3 + q]!
      const pr = ar + cr
      const pi = ai + ci
      const mr = ar - cr
      const mi = ai - ci
      const er = br + dr
      const ei = bi + di
      const fr = br - dr
      const fi = bi - di
      yr[o0 + q] = pr + er
      yi[o0 + q] = pi + ei
      const ur = mr + fi
      const ui = mi - fr
      yr[o1 + q] = ur * c1 - ui * s1
      yi[o1 + q] = ur * s1 + ui * c1
      const vr = pr - er
      const vi = pi - ei
      yr[o2 + q] = vr * c2 - vi * s2
      yi[o2 + q] = vr * s2 + vi * c2
      const wr = mr - fi
      const wi = mi + fr
      yr[o3 + q] = wr * c3 - wi * s3
      yi[o3 + q] = wr * s3 + wi * c3
    }
  }
}

/**
 * Real transform of `size` points through a complex one of half the size. Throws RangeError unless a power of
 * two of at least 4.
 */
export function realFft(size: number): RealFft {
  if (!isPowerOfTwo(size) || size < 4)
    throw new RangeError(`Real FFT size must be a power of two of at least 4, not ${size}`)
  const half = size / 2
  const inner = complexFft(half)
  const zr = new Float64Array(half)
  const zi = new Float64Array(half)
  const { cos, sin } = circleOf(size)
  return {
    size,
    forward(input, re, im) {
      for (let k = 0; k < half; k++) {
        zr[k] = input[2 * k]!
        zi[k] = input[2 * k + 1]!
      }
      inner.forward(zr, zi)
      re[0] = zr[0]! + zi[0]!
      im[0] = 0
      re[half] = zr[0]! - zi[0]!
      im[half] = 0
      for (let k = 1; k < half; k++) {
        const ar = zr[k]!
        const ai = zi[k]!
        const br = zr[half - k]!
        const bi = -zi[half - k]!
        const er = (ar + br) / 2
        const ei = (ai + bi) / 2
        const dr = (ai - bi) / 2
        const di = -(ar - br) / 2
        re[k] = er + dr * cos[k]! - di * sin[k]!
        im[k] = ei + dr * sin[k]! + di * cos[k]!
      }
    },
    inverse(re, im, output) {
      for (let k = 0; k < half; k++) {
        const ar = re[k]!
        const ai = k === 0 ? 0 : im[k]!
        const br = re[half - k]!
        const bi = k === 0 ? 0 : -im[half - k]!
        const er = (ar + br) / 2
        const ei = (ai + bi) / 2
        const tr = (ar - br) / 2
        const ti = (ai - bi) / 2
        const dr = tr * cos[k]! + ti * sin[k]!
        const di = ti * cos[k]! - tr * sin[k]!
        zr[k] = er - di
        zi[k] = ei + dr
      }
      inner.inverse(zr, zi)
      for (let k = 0; k < half; k++) {
        output[2 * k] = zr[k]!
        output[2 * k + 1] = zi[k]!
      }
    },
  }
}
