import type { MaybeRefOrGetter } from 'vue'
import type { DesiredSetting } from '~~/core/documents'
import {
  is,
  parametersIn,
  parametersOf,
  valueAt,
  type BlockId,
  type Parameter,
  type ParameterOf,
  type ParameterPath,
  type ValueOf,
} from '~~/core/rig'
import { equal } from '~~/core/units'
import type { PickedStrip } from './view'
import { useSite } from './site'
import { useTemporary } from './temporary'
import { phrase } from '~/parts/phrase'

/** A parameter with what is wanted and what the device holds; null where it has never been read. */
export interface Setting {
  parameter: Parameter
  draft: unknown
  held: unknown
  differs: boolean
  /** Who made it what it is, where somebody else did, or where it stands only for a while. */
  by: string | null
}

/** A setting whose block is of this kind: its parameter and values have that kind's types. */
export type SettingOf<K extends BlockId> = Setting & { parameter: ParameterOf<K>, draft: ValueOf<K> }

/** Whether a setting's block is of a kind; narrows its parameter and its value. */
export const isKind = <K extends BlockId>(setting: Setting, kind: K): setting is SettingOf<K> =>
  is(setting.parameter, kind)

const isSame = (a: Setting, b: Setting) =>
  a.draft === b.draft && a.held === b.held && a.by === b.by && a.differs === b.differs

/** The settings of one strip of a device in signal order, and how to change them. */
export function useStrip(strip: MaybeRefOrGetter<PickedStrip>) {
  const site = useSite()
  const temporary = useTemporary()
  const at = computed(() => toValue(strip))
  const device = computed(() => site.deviceOf(at.value.device))
  /** A parameter of the device as it is wanted and held. */
  function settingOf(parameter: Parameter): Setting {
    const { capability, id } = device.value!
    const held = site.held(id)
    const draft = valueAt(capability, site.draft(id), parameter.path)
    const has = held && valueAt(capability, held, parameter.path)
    const forNow = temporary.forNow(id, parameter.path)
    const by = forNow
      ? phrase('document.forNow', {
          who: forNow.who,
          what: forNow.what,
        })
      : site.byOf(`settings/${id}`, parameter.path)
    return { parameter, draft, held: has, differs: held !== null && !equal(draft, has), by }
  }
  /** A setting of which nothing changed stays the same object, so that what shows it need not be drawn again. */
  const settings = computed<Setting[]>((before) => {
    if (!device.value) return []
    const known = new Map(before?.map(s => [s.parameter, s]))
    return parametersIn(device.value.capability, at.value.strip).map((parameter) => {
      const next = settingOf(parameter)
      const was = known.get(parameter)
      return was && isSame(was, next) ? was : next
    })
  })
  /** Any parameter of the device, for instance a crosspoint; null where it has none there. */
  function settingAt(path: ParameterPath): Setting | null {
    const parameter = device.value && parametersOf(device.value.capability).get(path)
    return parameter ? settingOf(parameter) : null
  }
  /** Sets a value, and others in the same step. */
  async function set(
    { parameter }: Setting,
    value: unknown,
    gesture?: string,
    also: readonly DesiredSetting[] = [],
  ) {
    const options = gesture === undefined ? {} : { gesture }
    if (!also.length) return void await site.edit(at.value.device, parameter.path, value, options)
    await site.editAll([{ device: at.value.device, path: parameter.path, value }, ...also], options)
  }
  /** Changes some of the numbers of a value that has several. */
  const merge = (setting: Setting, change: object) => set(setting, { ...(setting.draft as object), ...change })
  return { device, settings, settingAt, set, merge }
}
