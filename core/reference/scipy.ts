import { inject } from 'vitest'

export interface ComplexValues {
  re: number[]
  im: number[]
}

/**
 * Asks numpy/scipy (`core/reference/scipy_service.py`). Typed arrays may be given; throws with Python's own
 * words on failure.
 */
export async function scipy<T>(operation: string, args: Record<string, unknown>): Promise<T> {
  const body = JSON.stringify(args, (_, value) =>
    ArrayBuffer.isView(value) ? Array.from(value as Float64Array) : value,
  )
  const answer = await fetch(`${inject('scipyUrl')}/${operation}`, { method: 'POST', body })
  const result = await answer.json()
  if (!answer.ok) throw new Error(`scipy ${operation}: ${result.error}`)
  return result as T
}

/** Largest |difference| of complex values. */
export function worstError(re: ArrayLike<number>, im: ArrayLike<number>, truth: ComplexValues): number {
  let worst = re.length === truth.re.length ? 0 : Infinity
  for (let k = 0; k < truth.re.length; k++)
    worst = Math.max(worst, Math.hypot(re[k]! - truth.re[k]!, im[k]! - truth.im[k]!))
  return worst
}
