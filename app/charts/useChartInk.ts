/**
 * Colours and axes that every chart draws with; colours are read once a theme: asking the page's style at every
 * frame costs more than drawing.
 */
export function useChartInk() {
  let colours: Record<string, string> = {}
  const ink = (name: string) =>
    (colours[name] ??= getComputedStyle(document.documentElement).getPropertyValue(name).trim())
  const font = { family: '"Atkinson Hyperlegible Mono Variable"', size: 11.5 }
  const minus = (v: string | number) => `${v}`.replace('-', '−')
  const base = () => ({ grid: { color: ink('--rule'), tickLength: 4 }, border: { color: ink('--rule-strong') } })
  const frequencyTicks = [
    20, 30, 40, 50, 60, 80, 100, 150, 200, 300, 400, 500, 600, 800, 1000, 1500, 2000, 3000, 4000, 5000, 6000, 8000,
    10_000, 15_000, 20_000,
  ]
  const wide = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000]
  return {
    ink,
    fresh: () => {
      colours = {}
    },
    /** Frequency, logarithmic. */
    frequency: (min: number, max: number) => ({
      ...base(),
      type: 'logarithmic' as const,
      min,
      max,
      afterBuildTicks: (axis: { ticks: { value: number }[] }) => {
        axis.ticks = (max / min > 60 ? wide : frequencyTicks)
          .filter(f => f >= min && f <= max)
          .map(value => ({ value }))
      },
      ticks: {
        color: ink('--ink-soft'),
        font,
        maxRotation: 0,
        autoSkip: false,
        callback: (v: string | number) => (Number(v) >= 1000 ? `${Number(v) / 1000}k` : `${v}`),
      },
    }),
    /**
     * A straight axis; across (y) its labels have one width in all charts, so that frequencies stand under each
     * other.
     */
    straight: (min: number, max: number, step: number | undefined, across: boolean, reverse = false) => ({
      ...base(),
      type: 'linear' as const,
      min,
      max,
      reverse,
      ...(across
        ? {
            afterFit: (axis: { width: number }) => {
              axis.width = 46
            },
          }
        : {}),
      ticks: {
        color: ink('--ink-soft'),
        stepSize: step,
        font,
        maxRotation: 0,
        callback: (v: string | number) => minus(typeof v === 'number' ? Number(v.toPrecision(6)) : v),
      },
    }),
  }
}
