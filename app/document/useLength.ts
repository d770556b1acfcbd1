import { metresPerFoot, parseLength, showLength } from '~~/core/units'
import { useView } from './view'

/** Lengths as this user reads them: metres or feet; fields take either. */
export function useLength() {
  const view = useView()
  return {
    unit: computed(() => view.lengths),
    show: (length: number, places = 2) => showLength(length, view.lengths, places),
    /** For a `NumberField`; `step` in metres, or twice that many feet. */
    field: computed(() => ({
      parse: (text: string) => parseLength(text, view.lengths),
      show: (v: number) =>
        view.lengths === 'm' ? `${Number(v.toFixed(3))} m` : `${Number((v / metresPerFoot).toFixed(2))} ft`,
      nudge: (v: number, n: number) =>
        Math.round((v + n * (view.lengths === 'm' ? 0.1 : 0.5 * metresPerFoot)) * 1e4) / 1e4,
    })),
  }
}
