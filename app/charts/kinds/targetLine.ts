import { standardGrid } from '~~/core/dsp'
import type { Aim } from '~/document/targets'
import type { Trace } from '../traces'
import { phrase } from '~/parts/phrase'

const everywhere = Array.from(standardGrid, () => true)

/** dB at which the target's 0 dB was drawn last: its knobs lie on the line. */
export const targetOffset = ref(0)

/** The target at its own level, or at that of the strongest line (median over its range), with its tolerance. */
export function targetTrace(lines: readonly Trace[], aim: Aim): Trace {
  const shape = standardGrid.map(aim.level)
  const line = lines.findLast(t => t.strong) ?? lines.at(-1)
  const apart = [...standardGrid.keys()]
    .filter(k => standardGrid[k]! > aim.range[0] && standardGrid[k]! < aim.range[1] && Number.isFinite(line?.values[k]))
    .map(k => line!.values[k]! - shape[k]!)
    .sort((a, b) => a - b)
  const level = aim.at ?? apart[apart.length >> 1] ?? 0
  targetOffset.value = level
  const values = shape.map(v => v + level)
  const off = (by: number) => values.map(v => v + by)
  return {
    id: 'target',
    name: phrase('charts.target'),
    hue: 7,
    dash: 1,
    predicted: false,
    strong: false,
    values,
    trusted: everywhere,
    band: [off(-aim.tolerance), off(aim.tolerance)],
  }
}
