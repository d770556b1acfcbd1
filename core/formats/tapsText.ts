import { refusal } from '../words'

const mostTaps = 65_535

/**
 * Coefficients of a FIR filter from text: numbers apart by blanks, commas, semicolons or lines; what follows # on a
 * line is left out. Throws RangeError with the line and the word that is no number, or for none or too many.
 */
export function readTaps(text: string): number[] {
  const taps: number[] = []
  text.split(/\r?\n/).forEach((line, n) => {
    for (const word of line.replace(/#.*/, '').split(/[\s,;]+/).filter(Boolean)) {
      const value = Number(word.replace('\u2212', '-'))
      if (!Number.isFinite(value)) throw refusal('taps.noNumber', { line: n + 1, word: word.slice(0, 40) })
      taps.push(value)
    }
    if (taps.length > mostTaps) throw refusal('taps.tooMany', { most: mostTaps })
  })
  if (!taps.length) throw refusal('taps.none')
  return taps
}

/** Coefficients as text, one a line, so that they read back as the same single-precision numbers. */
export const writeTaps = (taps: readonly number[], sampleRate: number): string =>
  `# ${taps.length} coefficients for ${sampleRate} Hz\n${taps.map(t => Number(t.toPrecision(9))).join('\n')}\n`
