import * as v from 'valibot'
import type { Section } from '../../dsp'
import { toStep, type Hertz, type QuantityId, type Ratio, type Seconds } from '../../units'
import { refusal, phrase } from '../../words'
import type { Label, Message } from '../../words'

/** A numeric range as a device holds it; `step` is the smallest change that it can make. */
export const Range = v.pipe(
  v.strictObject({ min: v.number(), max: v.number(), step: v.pipe(v.number(), v.minValue(1e-9)) }),
  v.check(r => r.max > r.min, 'A range must end above its start'),
)
export type Range = v.InferOutput<typeof Range>

export const finite = v.pipe(v.number('must be a number'), v.finite('must be a number'))

/**
 * What every block of a capability says: its kind, its address in its strip, and how many of it stand in a row
 * there.
 */
export const base = {
  id: v.pipe(v.string(), v.regex(/^[\w-]+$/, 'An address has letters, digits, _ and -')),
  count: v.optional(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(64))),
  /** What the device itself calls it. */
  name: v.optional(v.pipe(v.string(), v.maxLength(80))),
}

/** What a block does to a signal. Missing parts do nothing; `gain` 0 is silence. */
export interface Part {
  sections?: Section[]
  gain?: Ratio
  delay?: Seconds
  taps?: readonly number[]
}

/** `linear`: predicted; `dynamics`: limits what is louder; `routing`: opens a way; `source-select`: changes it. */
export type BlockRole = 'linear' | 'dynamics' | 'routing' | 'source-select'

/** One number, choice or switch of a block's value, as an editor shows it. */
export type Field<C>
  = | { kind: 'number', name: Label, quantity: QuantityId, range: (capability: C) => Range }
    | { kind: 'choice', name: Label, options: (capability: C) => { id: string | number, name: string }[] }
    | { kind: 'switch', name: Label }

/**
 * One kind of thing in a signal path. Everything that is known of it stands in its one file: what a device may
 * say of it
 * (`capability`), what can be set (`value`), what it is while nobody has set it, what a device would keep of a wish,
 * its words, and what it does to sound. Add a file and its line in `index.ts`, and the whole of Kovrin knows it.
 */
export interface BlockDefinition<C, V> {
  kind: string
  capability: v.GenericSchema<unknown, C>
  value: v.GenericSchema<unknown, V>
  /** 'Gain'; `index` counts from 0 where several stand in a row. */
  name: (capability: C, index: number) => string
  neutral: (capability: C, index: number) => V
  /** What the device would keep of a wish of the right shape. Throws RangeError with what is allowed. */
  hold: (capability: C, wish: V, name: string) => V
  show: (value: V, capability: C | null) => string
  part: (value: V, capability: C, sampleRate: Hertz) => Part
  /** Whether a take is no longer true after this change. */
  stales: (from: V, to: V) => boolean
  /** What looks at it: predictions, protection, routes, or the choice of an input. */
  role: BlockRole
  /** Whether a change of it can make what passes it louder; what opens a path is meant to sound. */
  mayRaise: boolean
  /** Its values are levels in dB, which rise in steps. */
  isLevel?: true
  /** An editor has it at hand beside the path, and says it with the path, without its name. */
  atHand?: { named?: true }
  /** The value's parts as an editor shows them; '' names a value that is one number or switch. */
  fields: Record<string, Field<C>>
}

/** A block kind whose types have been left behind: what tables hold. */
export type BlockKind = BlockDefinition<BlockCapability, unknown>
export interface BlockCapability {
  kind: string
  id: string
  count?: number | undefined
  name?: string | undefined
}

/** What a device would hold of a wished value, or why it cannot. */
export type Held = { ok: true, value: unknown } | { ok: false, why: Message }

/** A block kind that knows the types of its capability and value; `types` is there for the compiler alone. */
export interface TypedBlock<K extends string, C, V> extends BlockKind {
  readonly kind: K
  readonly types?: { capability: C, value: V }
}

/** Puts a definition among the kinds of a table, and checks the shape of a wish before the block itself looks at it. */
export function defineBlock<const K extends string, C extends BlockCapability, V>(
  definition: BlockDefinition<C, V> & { kind: K },
): TypedBlock<K, C, V> {
  const { hold } = definition
  const checked: BlockDefinition<C, V> & { kind: K } = {
    ...definition,
    hold: (capability, wish, name) => hold(capability, shaped(definition.value, wish, name), name),
  }
  // a table holds kinds of unlike types; each is only ever given what its own schemas have read
  return checked as unknown as TypedBlock<K, C, V>
}

function shaped<V>(schema: v.GenericSchema<unknown, V>, wish: unknown, name: string): V {
  const read = v.safeParse(schema, wish)
  if (read.success) return read.output
  const { root, nested } = v.flatten(read.issues)
  const parts = Object.entries((nested ?? {}) as Record<string, string[]>).map(
    ([key, words]) => `${key}: ${words[0]}`,
  )
  throw refusal('block.notUnderstood', { name, why: root?.[0] ?? parts.join('; ') })
}

/** `value` on the device's steps. Throws RangeError with the range when it lies outside. */
export function within(value: number, range: Range, show: (value: number) => string, name: string): number {
  if (value < range.min - range.step / 2 || value > range.max + range.step / 2) {
    const allowed = phrase('rig.toIsAllowed', { min: show(range.min), max: show(range.max) })
    throw refusal('block.outOfRange', { name, value: show(value), allowed })
  }
  return Math.min(range.max, Math.max(range.min, toStep(value, range.step)))
}
