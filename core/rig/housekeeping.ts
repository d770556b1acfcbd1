import * as v from 'valibot'

/** How much can be turned at a device itself: everything, levels and mutes only, or nothing. */
export const frontLevels = ['open', 'levels', 'locked'] as const
export type FrontLevel = (typeof frontLevels)[number]

const name = v.pipe(v.string(), v.trim(), v.maxLength(80))
const slot = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(2 ** 32 - 1))

/** A place for a preset in a device. */
export const PresetSlot = v.strictObject({
  slot,
  name: v.string(),
  isEmpty: v.boolean(),
  /** Its maker lets nobody change it. */
  isProtected: v.boolean(),
})
export type PresetSlot = v.InferOutput<typeof PresetSlot>

/** What a device does besides passing sound, as it tells it. Null: it has no such thing. */
export const Housekeeping = v.strictObject({
  /** Maker, model and number of the unit itself: two of one kind are told apart by it. */
  serial: v.nullable(v.pipe(v.string(), v.maxLength(400))),
  /** What its users call it, kept in the device. */
  name: v.nullable(v.string()),
  /** It shows itself by a lamp or its display. */
  identifying: v.nullable(v.boolean()),
  front: v.nullable(v.picklist(frontLevels)),
  presets: v.pipe(v.array(PresetSlot), v.maxLength(1000)),
  /** The preset that was recalled last. */
  recalled: v.nullable(slot),
})
export type Housekeeping = v.InferOutput<typeof Housekeeping>
export const noHousekeeping: Housekeeping = {
  serial: null, name: null, identifying: null, front: null, presets: [], recalled: null,
}

/** What a device can be asked to do besides holding settings. */
export const DeviceAct = v.variant('act', [
  v.strictObject({ act: v.literal('identify'), on: v.boolean() }),
  v.strictObject({ act: v.literal('name'), name: v.pipe(name, v.minLength(1)) }),
  v.strictObject({ act: v.literal('front'), front: v.picklist(frontLevels) }),
  /** Keeps its settings of now as a preset. */
  v.strictObject({ act: v.literal('store'), slot, name: v.pipe(name, v.minLength(1)) }),
  v.strictObject({ act: v.literal('recall'), slot }),
  v.strictObject({ act: v.literal('rename'), slot, name: v.pipe(name, v.minLength(1)) }),
  v.strictObject({ act: v.literal('clear'), slot }),
])
export type DeviceAct = v.InferOutput<typeof DeviceAct>

const has = (thing: unknown) => thing !== null

/**
 * Why a device cannot do what it is asked for, by a code of the catalogue of words; null: it can be asked.
 * @param state what the device told last
 * @param act what is asked for
 */
export function cannotAct(state: Housekeeping, act: DeviceAct): 'act.none' | 'act.noSlot' | 'act.kept' | null {
  switch (act.act) {
    case 'identify': return has(state.identifying) ? null : 'act.none'
    case 'name': return has(state.name) ? null : 'act.none'
    case 'front': return has(state.front) ? null : 'act.none'
  }
  const place = state.presets.find(p => p.slot === act.slot)
  if (!place || (place.isEmpty && act.act !== 'store')) return 'act.noSlot'
  return place.isProtected && act.act !== 'recall' ? 'act.kept' : null
}
