import {
  libraryAccess, ocaStatus, parameterSet, readParameterSet, rootBlock, writeParameterSet, type BoundObject,
  type OcaObject, type Volume,
} from '../../core/formats/oca'
import { FrontLock, OcaIdentificationActuator, PresetLibrary } from '../../core/formats/ocp1'
import { frontLevels, is, parametersOf, type FrontLevel, type Settings } from '../../core/rig'
import { no, ok, type Result } from './calls'
import type { Changed, DeviceModel } from './model'

/** A preset as the device keeps it; what was never stored is missing. */
export interface Preset { slot: number, name: string, stores: number, settings: Settings }
/** What a device keeps besides its settings. */
export interface Kept { front: FrontLevel, recalled: number | null, presets: readonly Preset[] }
export const keptAtFirst: Kept = { front: 'open', recalled: null, presets: [] }
/** Name of the last place of each device: its maker's own, which nobody can change. */
const asDelivered = 'As delivered'
const longestName = 40

/** What a device does besides passing sound: it shows itself, locks its front, keeps presets. */
export class StandinHousekeeping {
  identifying = false
  private readonly bounds: BoundObject[]
  private readonly identify: OcaObject
  private readonly front: OcaObject
  private readonly library: OcaObject

  constructor(
    private readonly model: DeviceModel, private kept: Kept, private readonly save: (kept: Kept) => void,
    private readonly delivered: Settings, private readonly tell: Changed,
  ) {
    const objects = [...model.tree.objects.values()]
    const of = (id: string) => objects.find(o => o.oca.id === id)!
    this.identify = of(OcaIdentificationActuator.id)
    this.front = of(FrontLock.id)
    this.library = of(PresetLibrary.id)
    this.bounds = objects.flatMap(o => (o.bound ? [{ ...o.bound, object: o.number }] : []))
  }

  /** Whether its front lets a parameter be turned. */
  mayTurn(path: string): boolean {
    const { front } = this.kept
    const parameter = parametersOf(this.model.capability).get(path)
    const isLevel = parameter !== undefined && (is(parameter, 'gain') || is(parameter, 'mute'))
    return front === 'open' || (front === 'levels' && isLevel)
  }

  /** What an object answers that has to do with it; null: nothing. */
  answer({ number }: OcaObject, name: string, values: readonly unknown[]): Result | null {
    try {
      if (number === this.identify.number) return this.identifyAnswer(name, values)
      if (number === this.front.number) return this.frontAnswer(name, values)
      if (number === this.library.number) return this.libraryAnswer(name, values)
      return number === rootBlock ? this.rootAnswer(name, values) : null
    }
    catch { return no(ocaStatus.deviceError) }
  }

  private keep(kept: Partial<Kept>) {
    const next = { ...this.kept, ...kept }
    this.save(next)
    this.kept = next
  }

  private identifyAnswer(name: string, [on]: readonly unknown[]): Result | null {
    if (name === 'GetActive') return ok(this.identifying)
    if (name !== 'SetActive') return null
    this.identifying = on as boolean
    this.tell(this.identify.number, 'Active', on)
    return ok()
  }

  private frontAnswer(name: string, [position]: readonly unknown[]): Result | null {
    switch (name) {
      case 'GetPosition': return ok(frontLevels.indexOf(this.kept.front), 0, frontLevels.length - 1)
      case 'GetPositionNames': return ok([...frontLevels])
      case 'GetPositionName': {
        const named = frontLevels[position as number]
        return named ? ok(named) : no(ocaStatus.outOfRange)
      }
      case 'SetPosition': {
        const front = frontLevels[position as number]
        if (!front) return no(ocaStatus.outOfRange)
        this.keep({ front })
        this.tell(this.front.number, 'Position', position)
        return ok()
      }
      default: return null
    }
  }

  private presetAt(slot: number): Preset | undefined {
    const { slots } = this.model.capability
    if (slots > 0 && slot === slots) return { slot, name: asDelivered, stores: 1, settings: this.delivered }
    return this.kept.presets.find(p => p.slot === slot)
  }

  private isFree = (slot: number) => slot >= 1 && slot < this.model.capability.slots

  private volumeAt(slot: number): Volume {
    const preset = this.presetAt(slot)
    const holders = (path: string) => this.bounds.filter(b => b.path === path)
    return {
      metadata: {
        name: preset?.name ?? '',
        volType: parameterSet,
        access: this.isFree(slot) ? libraryAccess.full : libraryAccess.readOnly,
        version: preset?.stores ?? 0,
        creator: '',
        upDate: { negative: false, seconds: 0n, nanoseconds: 0 },
      },
      data: (preset && writeParameterSet(preset.settings, holders)) ?? new Uint8Array(),
    }
  }

  private get volumes(): [number, Volume][] {
    return Array.from({ length: this.model.capability.slots }, (_, n) => [n + 1, this.volumeAt(n + 1)])
  }

  private put(slot: number, preset: Omit<Preset, 'slot'> | null): Result {
    if (slot === this.model.capability.slots) return no(ocaStatus.invalidRequest)
    if (!this.isFree(slot)) return no(ocaStatus.outOfRange)
    const others = this.kept.presets.filter(p => p.slot !== slot)
    this.keep({ presets: preset ? [...others, { slot, ...preset }] : others })
    this.tell(this.library.number, 'Volumes', this.volumes)
    return ok()
  }

  private libraryAnswer(name: string, values: readonly unknown[]): Result | null {
    const [slot, given] = values as [number, Volume | undefined]
    switch (name) {
      case 'GetVolumes': return ok(this.volumes)
      case 'GetVolume': return slot >= 1 && slot <= this.model.capability.slots
        ? ok(this.volumeAt(slot))
        : no(ocaStatus.outOfRange)
      case 'DeleteVolume': return this.put(slot, null)
      case 'ReplaceVolume': {
        const known = this.presetAt(slot)
        const isSame = Buffer.from(this.volumeAt(slot).data).equals(Buffer.from(given!.data))
        const settings = isSame && known
          ? known.settings
          : readParameterSet(this.model.capability, this.bounds, given!.data)
        if (!settings) return no(ocaStatus.parameter)
        const named = given!.metadata.name.slice(0, longestName)
        return this.put(slot, { name: named, stores: (known?.stores ?? 0) + 1, settings })
      }
      default: return null
    }
  }

  private rootAnswer(name: string, [at]: readonly unknown[]): Result | null {
    const { library, id } = (at ?? {}) as { library?: number, id?: number }
    switch (name) {
      case 'GetMostRecentParamSetIdentifier': return ok({ library: this.library.number, id: this.kept.recalled ?? 0 })
      case 'StoreCurrentParamSetData': {
        if (library !== this.library.number) return no(ocaStatus.badObject)
        const known = this.presetAt(id!)
        const named = known?.name ?? `Preset ${id}`
        return this.put(id!, { name: named, stores: (known?.stores ?? 0) + 1, settings: this.model.settings })
      }
      case 'ApplyParamSet': {
        if (library !== this.library.number) return no(ocaStatus.badObject)
        const preset = this.presetAt(id!)
        if (!preset) return no(ocaStatus.outOfRange)
        this.model.become(preset.settings)
        this.keep({ recalled: id! })
        this.tell(rootBlock, 'MostRecentParamSetIdentifier', { library, id })
        return ok()
      }
      default: return null
    }
  }
}
