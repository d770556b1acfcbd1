import { isMessage, wordsOf } from '../../core/words'

/** What an analysis answers: text or bytes, and headers that go with it. */
export interface AnalysisAnswer {
  type: string
  body: string | Uint8Array
  headers: Record<string, string>
}

/** An answer as JSON: numbers that JSON has not are null, arrays of samples lists, and messages are said. */
export const json = (value: unknown, headers = {}): AnalysisAnswer => ({
  type: 'application/json',
  body: JSON.stringify(value, (_, x) => {
    if (typeof x === 'number' && !Number.isFinite(x)) return null
    if (isMessage(x)) return wordsOf(x)
    return ArrayBuffer.isView(x) ? Array.from(x as Float64Array) : x
  }),
  headers,
})
