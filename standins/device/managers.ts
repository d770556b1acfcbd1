import { deviceRoles, ocaStatus, parameterSet, type Identity } from '../../core/formats/oca'
import {
  OcaLibraryManager, OcaMediaClock3, OcaMediaClockManager, OcaNetworkManager,
  OcaSubscriptionManager, PresetLibrary, RigDeviceManager, type OcaClass,
} from '../../core/formats/ocp1'
import type { DeviceModel } from './model'
import { classFields, no, ok, type Result } from './calls'

/** Numbers of the managers (AES70-2018). */
export const managers: Readonly<Record<number, OcaClass & { title: string }>> = {
  1: { ...RigDeviceManager, title: 'Device' },
  4: { ...OcaSubscriptionManager, title: 'Subscription' },
  6: { ...OcaNetworkManager, title: 'Network' },
  7: { ...OcaMediaClockManager, title: 'MediaClock' },
  8: { ...OcaLibraryManager, title: 'Library' },
}
const maker = new Uint8Array([0x0A, 0x4B, 0x56])
const operational = 1
const ocaVersion = 2
const mostContext = 64

/** Names that users give: of the device itself and of its objects; kept before they are confirmed. */
export interface Names {
  get(key: string): string | undefined
  set(key: string, name: string): void
}

/** What the managers answer; null for what they do not have. Subscriptions are the connection's own. */
export function managerAnswer(
  model: DeviceModel, who: Identity, names: Names, object: number, name: string, values: readonly unknown[],
): Result | null {
  const own = (oca: OcaClass) => [...model.tree.objects.values()].filter(o => o.oca.id === oca.id).map(o => o.number)
  const roles: Record<string, () => Result> = {
    'GetClassIdentification': () =>
      ok({ classId: classFields(managers[object]!), classVersion: managers[object]!.version }),
    'GetLockable': () => ok(false),
    'GetRole': () => ok(managers[object]!.title),
    '1.GetOcaVersion': () => ok(ocaVersion),
    '1.GetModelGUID': () => ok({ reserved: new Uint8Array(1), maker, modelCode: new Uint8Array(4) }),
    '1.GetSerialNumber': () => ok(who.serial ?? ''),
    '1.GetDeviceName': () => ok(names.get('device') ?? who.name ?? ''),
    '1.SetDeviceName': () => {
      names.set('device', String(values[0]))
      return ok()
    },
    '1.GetModelDescription': () =>
      ok({ manufacturer: who.maker, name: who.model, version: who.firmware ?? '' }),
    '1.GetDeviceRole': () => ok(model.capability.kind),
    '1.GetKind': () => ok(deviceRoles.indexOf(model.capability.kind)),
    '1.GetUserInventoryCode': () => ok(''),
    '1.GetEnabled': () => ok(true),
    '1.GetState': () => ok(operational),
    '1.GetMessage': () => ok(''),
    '1.GetResetCause': () => ok(0),
    '1.GetDeviceRevisionID': () => ok(who.firmware ?? ''),
    '1.GetManagers': () => ok(Object.entries(managers).map(([number, oca]) => ({
      objectNumber: Number(number), name: oca.title, classId: classFields(oca), classVersion: oca.version,
    }))),
    '4.GetMaximumSubscriberContextLength': () => ok(mostContext),
    '6.GetNetworks': () => ok([]),
    '6.GetStreamNetworks': () => ok([]),
    '6.GetControlNetworks': () => ok([]),
    '6.GetMediaTransportNetworks': () => ok([]),
    '7.GetClocks': () => ok([]),
    '7.GetClock3s': () => ok(own(OcaMediaClock3)),
    '8.GetLibraryCount': () => ok(own(PresetLibrary).length),
    '8.GetLibraryList': () => ok(own(PresetLibrary).map(number => ({ type: parameterSet, object: number }))),
  }
  return (roles[`${object}.${name}`] ?? roles[name])?.() ?? no(ocaStatus.notImplemented)
}
export const managerNumbers = { device: 1, subscription: 4 } as const
