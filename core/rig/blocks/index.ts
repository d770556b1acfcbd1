import { band } from './band'
import { crosspoint } from './crosspoint'
import { delay } from './delay'
import { fir } from './fir'
import { gain } from './gain'
import { graphic } from './graphic'
import type { BlockKind, TypedBlock } from './kind'
import { limiter } from './limiter'
import { mute } from './mute'
import { pass } from './pass'
import { polarity } from './polarity'
import { select } from './select'

export { Band, bandActs, cookbookQ, deviceQ, type BandCapability } from './band'
export { Range, type BlockCapability, type BlockKind, type Field, type Held, type Part } from './kind'
export { defineBlock } from './kind'
export { type Fir, type FirCapability } from './fir'
export { type GraphicCapability } from './graphic'
export { type Limiter, type LimiterCapability } from './limiter'
export { familyName, Pass, type PassCapability } from './pass'
export { type SelectCapability } from './select'

const kinds = { select, gain, mute, polarity, delay, pass, band, graphic, fir, limiter, crosspoint }

/** Every kind of block that Kovrin knows, by its name: the one list. */
export const blockKinds = new Map<string, BlockKind>(Object.values(kinds).map(k => [k.kind, k]))

export type BlockId = keyof typeof kinds
type TypesOf<K extends BlockId> = (typeof kinds)[K] extends TypedBlock<string, infer C, infer V>
  ? { capability: C, value: V }
  : never
/** What a device says of a block of this kind, and what can be set. */
export type CapabilityOf<K extends BlockId> = TypesOf<K>['capability']
export type ValueOf<K extends BlockId> = TypesOf<K>['value']
