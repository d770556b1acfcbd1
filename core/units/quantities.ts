import {
  parseDelay,
  parseFrequency,
  parseLevel,
  parseMeasure,
  parseQ,
  showDelay,
  showFrequency,
  showLevel,
  showNumber,
  type ParseContext,
  type Parsed,
} from './parse'

/** How one kind of number is typed, shown, and moved by `steps` presses of an arrow key. */
export interface Quantity {
  parse: (text: string, context?: ParseContext) => Parsed
  show: (value: number) => string
  nudge: (value: number, steps: number) => number
}

const tenths = (v: number) => Math.round(v * 10) / 10

/** Every quantity that a setting can be: its unit, read and shown alike in every field. */
export const quantities = {
  level: { parse: parseLevel, show: v => showLevel(v), nudge: (v, n) => tenths(v + 0.5 * n) },
  frequency: {
    parse: parseFrequency,
    show: showFrequency,
    nudge: (v, n) => Number((v * 2 ** (n / 12)).toPrecision(4)),
  },
  q: {
    parse: parseQ,
    show: v => showNumber(v, 2),
    nudge: (v, n) => Math.max(0.3, Math.round((v + 0.1 * n) * 100) / 100),
  },
  delay: { parse: parseDelay, show: v => showDelay(v), nudge: (v, n) => Math.max(0, v + n * 0.0001) },
} as const satisfies Record<string, Quantity>
export type QuantityId = keyof typeof quantities

/** A plain number with a fixed unit: degrees, °C, %, kPa. */
export const plainQuantity = (unit: string, step: number, places: number): Quantity => ({
  parse: text => parseMeasure(text, unit),
  show: v => `${Number(v.toFixed(places))}${unit ? ` ${unit}` : ''}`.replace('-', '−'),
  nudge: (v, n) => Number((v + n * step).toFixed(4)),
})
