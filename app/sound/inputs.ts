import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import * as v from 'valibot'
import {
  generatorTap,
  plainChannel,
  recognise,
  soundDeviceSchema,
  splitTap,
  type PresentDevice,
  type SoundChannel,
  type SoundDevice,
  type Tap,
} from '~~/core/measure'
import { gainLeftBehind, simulatedInputs, simulatedInterface } from '~~/standins/venue/offers'
import { phrase } from '~/parts/phrase'

export interface ListedDevice {
  device: SoundDevice
  present: boolean
  simulated: boolean
}
const remembered = v.array(soundDeviceSchema)
/** What was remembered, or nothing if it cannot be read. */
const serializer = {
  read: (text: string): SoundDevice[] => {
    const read = v.safeParse(remembered, JSON.parse(text))
    return read.success ? read.output : []
  },
  write: JSON.stringify,
}
const asLeft = (): SoundDevice[] =>
  recognise([], simulatedInputs).map(({ device }) =>
    device.key === simulatedInterface
      ? { ...device, channels: device.channels.map((c, n) => (n === 2 ? { ...c, gain: gainLeftBehind } : c)) }
      : device,
  )

/**
 * Every sound input and output, simulated or this computer's, with the names and labels that the user gave
 * them; remembered by this browser.
 */
export const useInputs = defineStore('inputs', () => {
  const known = useLocalStorage<SoundDevice[]>('kovrin-sound-inputs', asLeft, { serializer })
  const knownOutputs = useLocalStorage<SoundDevice[]>('kovrin-sound-outputs', [], { serializer })
  const present = ref<PresentDevice[]>([])
  const presentOutputs = ref<PresentDevice[]>([])
  const isSimulated = (key: string) => simulatedInputs.some(s => s.id === key)

  const inputs = computed<ListedDevice[]>(() =>
    recognise(known.value, [...simulatedInputs, ...present.value]).map(r => ({
      ...r,
      simulated: isSimulated(r.device.key),
    })),
  )
  const outputs = computed<ListedDevice[]>(() =>
    recognise(knownOutputs.value, presentOutputs.value).map(r => ({ ...r, simulated: false })),
  )
  /** What is plugged in now; whatever has a name of its own is remembered. */
  function found(sources: PresentDevice[], sinks: PresentDevice[]) {
    present.value = sources
    presentOutputs.value = sinks
    known.value = inputs.value.map(i => i.device).filter(d => d.label)
    knownOutputs.value = outputs.value.map(o => o.device).filter(d => d.label)
  }

  const deviceOf = (key: string) => inputs.value.find(i => i.device.key === key)
  const channelOf = (tap: Tap): SoundChannel => {
    const at = splitTap(tap)
    return (at && deviceOf(at.key)?.device.channels[at.channel]) || plainChannel()
  }
  const nameOf = (device: SoundDevice) => device.name || device.label
  /** What the user calls a channel, or what it is; with its device's name where that is not plain. */
  function labelOf(tap: Tap, long = false): string {
    if (tap === generatorTap) return phrase('sound.kovrinsOwnSignal')
    const { key, channel } = splitTap(tap)!
    const listed = deviceOf(key)
    const name = channelOf(tap).name || `channel ${channel + 1}`
    return long || !channelOf(tap).name
      ? `${listed ? nameOf(listed.device) : phrase('sound.aDeviceThatIs')}, ${name}`
      : name
  }
  const change = (list: typeof known, key: string, patch: Partial<SoundDevice>) => {
    list.value = (list === known ? inputs : outputs).value
      .map(i => (i.device.key === key ? { ...i.device, ...patch } : i.device))
      .filter(d => d.label)
  }
  const changeInput = (key: string, patch: Partial<SoundDevice>) => change(known, key, patch)
  const changeOutput = (key: string, patch: Partial<SoundDevice>) => change(knownOutputs, key, patch)
  function changeChannel(tap: Tap, patch: Partial<SoundChannel>) {
    const at = splitTap(tap)
    const device = at && deviceOf(at.key)?.device
    if (device)
      changeInput(at.key, {
        channels: Array.from({ length: Math.max(device.channels.length, at.channel + 1) }, (_, n) => ({
          ...(device.channels[n] ?? plainChannel()),
          ...(n === at.channel ? patch : {}),
        })),
      })
  }

  return {
    inputs,
    outputs,
    found,
    deviceOf,
    channelOf,
    nameOf,
    labelOf,
    changeInput,
    changeOutput,
    changeChannel,
    /** Every name, label, hidden mark, gain, correction and calibration forgotten; comes back with what was there. */
    clean() {
      const before = [known.value, knownOutputs.value] as const
      known.value = asLeft()
      knownOutputs.value = []
      return () => {
        ;[known.value, knownOutputs.value] = before
      }
    },
  }
})
