import {
  ocaStatus, OcaRefused, parameterSet, rootBlock, type Ask, type HousekeepingObjects, type Volume,
} from '../../core/formats/oca'
import {
  OcaBlock, OcaDeviceManager, OcaIdentificationActuator, OcaLibrary, OcaSwitch,
} from '../../core/formats/ocp1'
import { frontLevels, type DeviceAct } from '../../core/rig'

const deviceManager = 1
const newVolume: Volume = {
  metadata: {
    name: '', volType: parameterSet, access: 3, version: 1, creator: '',
    upDate: { negative: false, seconds: 0n, nanoseconds: 0 },
  },
  data: new Uint8Array(),
}
/** The number of an object; refused where the device has none. */
function numberOf(found: { number: number } | null): number {
  if (!found) throw new OcaRefused(ocaStatus.notImplemented)
  return found.number
}

/**
 * Has a device do something by the methods of its objects.
 * @param ask asks an object of it
 * @param objects those that do it
 * @param volumeAt what a preset was told to be last, for its new name goes with all of it
 * @throws OcaRefused with the device's reason
 */
export async function ocaAct(
  ask: Ask, { identify, front, library }: HousekeepingObjects, volumeAt: (slot: number) => Volume | null,
  act: DeviceAct,
): Promise<void> {
  switch (act.act) {
    case 'identify':
      await ask(numberOf(identify), OcaIdentificationActuator.methods.SetActive, [act.on])
      return
    case 'name':
      await ask(deviceManager, OcaDeviceManager.methods.SetDeviceName, [act.name])
      return
    case 'front':
      await ask(numberOf(front), OcaSwitch.methods.SetPosition, [frontLevels.indexOf(act.front)])
      return
  }
  const at = { library: numberOf(library), id: act.slot }
  const name = async (to: string) => {
    const { metadata, data } = volumeAt(act.slot) ?? newVolume
    if (metadata.name === to) return
    await ask(at.library, OcaLibrary.methods.ReplaceVolume, [act.slot, { metadata: { ...metadata, name: to }, data }])
  }
  switch (act.act) {
    case 'recall':
      await ask(rootBlock, OcaBlock.methods.ApplyParamSet, [at])
      return
    case 'clear':
      await ask(at.library, OcaLibrary.methods.DeleteVolume, [act.slot])
      return
    case 'rename':
      await name(act.name)
      return
    case 'store':
      await ask(rootBlock, OcaBlock.methods.StoreCurrentParamSetData, [at])
      // what it holds now is asked for: its name goes with all of it
      await ask(at.library, OcaLibrary.methods.GetVolumes)
      await name(act.name)
  }
}
