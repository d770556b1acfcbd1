import * as v from 'valibot'

/** Where a signal comes in: `<device key>#<channel from 0>`, or Kovrin's own generator inside the machine. */
export type Tap = string
export const generatorTap: Tap = 'generator'
export const tapOf = (key: string, channel: number): Tap => `${key}#${channel}`

/** Device key and channel of a tap; null for the generator. Throws RangeError for what is no tap. */
export function splitTap(tap: Tap): { key: string, channel: number } | null {
  if (tap === generatorTap) return null
  const [, key, channel] = /^(.+)#(\d{1,3})$/.exec(tap) ?? []
  if (key === undefined) throw new RangeError(`“${tap}” names no input channel`)
  return { key, channel: Number(channel) }
}

const textFile = v.object({ name: v.string(), text: v.string() })
const channelSchema = v.object({
  /** The user's own label; '' for none. */
  name: v.string(),
  /** Decibels added in the simulated interface's preamplifier; real ones have knobs of their own. */
  gain: v.number(),
  /** Decibels SPL at 0 dBFS once calibrated; 0 before. */
  calibration: v.number(),
  /** The microphone's own response, as the text file that came with it. */
  correction: v.nullable(textFile),
})
export const soundDeviceSchema = v.object({
  /** Never changes, also when the browser hands out another `id` for the same device. */
  key: v.string(),
  id: v.string(),
  /** As the machine calls it. */
  label: v.string(),
  /** The user's own name; '' for none. */
  name: v.string(),
  hidden: v.boolean(),
  channels: v.array(channelSchema),
})
/** A sound device with what the user decided about it. */
export type SoundDevice = v.InferOutput<typeof soundDeviceSchema>
export type SoundChannel = SoundDevice['channels'][number]

/** A device that is plugged in now. */
export interface PresentDevice {
  id: string
  label: string
  channels: number
  /** Labels of its channels, where it has any. */ names?: readonly string[]
}

export const plainChannel = (name = ''): SoundChannel => ({ name, gain: 0, calibration: 0, correction: null })
const withChannels = (device: SoundDevice, { channels, names }: PresentDevice): SoundDevice =>
  device.channels.length >= channels
    ? device
    : {
        ...device,
        channels: Array.from({ length: channels }, (_, n) => device.channels[n] ?? plainChannel(names?.[n])),
      }

/**
 * Every device, known or new, with whether it is there now. One is known again by its id; when no known device has that
 * id, by its label, if just one absent device has it: browsers hand out new ids when the user clears their data.
 */
export function recognise(
  known: readonly SoundDevice[],
  present: readonly PresentDevice[],
): { device: SoundDevice, present: boolean }[] {
  const ids = new Set(present.map(p => p.id))
  const left = new Map(known.map(k => [k.key, k]))
  const found = new Map<string, SoundDevice>()
  const fresh: SoundDevice[] = []
  for (const p of present) {
    const namesakes = [...left.values()].filter(k => k.label === p.label && !ids.has(k.id))
    const twins = present.filter(x => x.label === p.label && !known.some(k => k.id === x.id))
    const match
      = [...left.values()].find(k => k.id === p.id)
        ?? (namesakes.length === 1 && twins.length === 1 ? namesakes[0] : undefined)
    if (match) {
      left.delete(match.key)
      found.set(match.key, withChannels({ ...match, id: p.id, label: p.label || match.label }, p))
    }
    else {
      const taken = (key: string) => known.some(k => k.key === key) || fresh.some(k => k.key === key)
      let key = p.id
      for (let n = 2; taken(key); n++) key = `${p.id} ${n}`
      fresh.push(withChannels({ key, id: p.id, label: p.label, name: '', hidden: false, channels: [] }, p))
    }
  }
  return [
    ...known.map(k => ({ device: found.get(k.key) ?? k, present: found.has(k.key) })),
    ...fresh.map(device => ({ device, present: true })),
  ]
}
