import type { BlockId } from '../../rig'
import { attempt, isBelow, type Ask, type Found } from './members'
import { mappings } from './mappings'
import type { ReadObject } from './mapping'
import { decimal, propertiesOf } from './properties'

/** The kind of block that objects of a standard class are, the deepest class first where one stands below another. */
const kinds: readonly (readonly [string, Exclude<BlockId, 'graphic' | 'crosspoint'>])[] = [
  ['1.1.1.2', 'mute'], ['1.1.1.3', 'polarity'], ['1.1.1.4', 'select'], ['1.1.1.5', 'gain'], ['1.1.1.7', 'delay'],
  ['1.1.1.9', 'pass'], ['1.1.1.10', 'band'], ['1.1.1.12', 'fir'], ['1.1.1.14', 'limiter'],
]
export const kindOf = (found: Found) => kinds.find(([id]) => isBelow(found, id))?.[1] ?? null

/** Numbers as they were meant, also inside structures; rows of coefficients are left as they are. */
export function asMeant(value: unknown): unknown {
  if (typeof value === 'number') return decimal(value)
  if (value === null || typeof value !== 'object' || Array.isArray(value) || value instanceof Uint8Array) return value
  return Object.fromEntries(Object.entries(value).map(([key, x]) => [key, asMeant(x)]))
}

/** A class of our own tells more than the standard has words for. */
export const isOurs = ({ oca }: Pick<Found, 'oca'>) => oca.id.includes('.65535.')
const ourMethods = [
  'GetSteps', 'GetOrders', 'GetBesselNorm', 'GetShapes', 'GetWidthLaw', 'GetDetectorLaws', 'GetLookAhead',
]

/** Reads of an object what its block needs: properties with their limits, and what a class of ours tells besides. */
export async function readObject(ask: Ask, { number, oca }: Found, kind: keyof typeof mappings): Promise<ReadObject> {
  const { properties, also = [] } = mappings[kind]
  const table = propertiesOf(oca)
  const cells: Record<string, unknown> = {}
  const limits: Record<string, { min: number, max: number }> = {}
  const facts: Record<string, readonly unknown[]> = {}
  const readings = [...properties, ...also].map(async (name) => {
    const property = table.get(name)
    const told = property && await attempt(ask(number, property.get))
    if (!told) return
    cells[name] = asMeant(told[0])
    if (property.isLimited) limits[name] = { min: decimal(told[1] as number), max: decimal(told[2] as number) }
  })
  const tellings = isOurs({ oca }) ? ourMethods.filter(name => oca.methods[name]) : []
  await Promise.all([...readings, ...tellings.map(async (name) => {
    const told = await attempt(ask(number, oca.methods[name]!))
    if (told) facts[name] = told
  })])
  return { oca, cells, limits, facts }
}
