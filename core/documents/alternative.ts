import * as v from 'valibot'
import { Settings } from './device'
import { id, name, order } from './parts'

/** Drafts of all devices as they were once: one way to set the system, to be compared with others. */
export const Alternative = v.strictObject({
  id,
  name,
  order,
  /** By device. */
  settings: v.pipe(v.record(id, Settings), v.check(s => Object.keys(s).length <= 200, 'At most 200 devices')),
})
export type Alternative = v.InferOutput<typeof Alternative>
