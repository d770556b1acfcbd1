import type { MaybeRefOrGetter } from 'vue'
import { parametersIn, valueAt, type Parameter } from '~~/core/rig'
import { equal } from '~~/core/units'
import type { PickedStrip } from '~/frame/view'

/** A parameter with what is wanted and what the device holds; null where it has never been read. */
export interface Setting {
  parameter: Parameter
  draft: unknown
  held: unknown
  differs: boolean
}

/** The settings of one strip of a device in signal order, and how to change them. */
export function useStrip(strip: MaybeRefOrGetter<PickedStrip>) {
  const site = useSite()
  const at = computed(() => toValue(strip))
  const device = computed(() => site.deviceOf(at.value.device))
  const settings = computed<Setting[]>(() => {
    if (!device.value) return []
    const { capability, id } = device.value
    const held = site.held(id)
    const draft = site.draft(id)
    return parametersIn(capability, at.value.strip).map((parameter) => {
      const wanted = valueAt(capability, draft, parameter.path)
      const has = held && valueAt(capability, held, parameter.path)
      return { parameter, draft: wanted, held: has, differs: held !== null && !equal(wanted, has) }
    })
  })
  const set = ({ parameter }: Setting, value: unknown) => void site.edit(at.value.device, parameter.path, value)
  /** Changes some of the numbers of a value that has several. */
  const merge = (setting: Setting, change: object) => set(setting, { ...(setting.draft as object), ...change })
  return { device, settings, set, merge }
}
