import * as v from 'valibot'

/** Where to look for devices: addresses with a port (`10.0.0.1-254:65000`); null: what tells of itself. */
export const SearchBody = v.strictObject({ range: v.nullable(v.pipe(v.string(), v.maxLength(100))) })

/** A device that answered, as it tells who it is. */
export const FoundDevice = v.object({
  address: v.string(),
  serial: v.nullable(v.string()),
  /** What its users call it. */
  name: v.nullable(v.string()),
  maker: v.string(),
  model: v.string(),
  firmware: v.nullable(v.string()),
})
export type FoundDevice = v.InferOutput<typeof FoundDevice>
export const SearchAnswer = v.object({ found: v.array(FoundDevice) })
export type SearchAnswer = v.InferOutput<typeof SearchAnswer>
