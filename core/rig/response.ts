import {
  allPass,
  applyGainAndDelay,
  applySections,
  classical,
  highShelf,
  lowShelf,
  notch,
  peaking,
  unity,
  type Curve,
  type Section,
} from '../dsp'
import { ratioOf, type Hertz, type Seconds } from '../units'
import type { Capability } from './capability'
import type { Band, Channel, Settings } from './settings'
import type { Endpoint, Wire } from './site'

/** Devices with their settings, and the cables between them: all that turns a feed into what a loudspeaker gets. */
export interface Rig {
  devices: Record<string, { capability: Capability, settings: Settings }>
  wires: Wire[]
}

const bandSections: Record<Band['type'], (b: Band, rate: Hertz) => Section> = {
  'peaking': (b, rate) => peaking(b.frequency, b.gain, b.q, rate),
  'low-shelf': (b, rate) => lowShelf(b.frequency, b.gain, b.q, rate),
  'high-shelf': (b, rate) => highShelf(b.frequency, b.gain, b.q, rate),
  'all-pass': (b, rate) => allPass(b.frequency, b.q, rate),
  'notch': (b, rate) => notch(b.frequency, b.q, rate),
}

/** The filters of a channel that are on and do something, at the device's sample rate. */
export function channelSections(channel: Channel, sampleRate: Hertz): Section[] {
  const { highPass, lowPass, eq } = channel
  return [
    ...(highPass?.on ? classical(highPass.family, 'high', highPass.order, highPass.frequency, sampleRate) : []),
    ...(lowPass?.on ? classical(lowPass.family, 'low', lowPass.order, lowPass.frequency, sampleRate) : []),
    ...eq
      .filter(b => b.on && (b.gain !== 0 || b.type === 'all-pass' || b.type === 'notch'))
      .map(b => bandSections[b.type](b, sampleRate)),
  ]
}

const channelGain = (channel: Channel): number =>
  channel.mute ? 0 : (channel.turned ? -1 : 1) * ratioOf(channel.gain)

/** Response of one channel alone: gain, polarity, delay, filters; 0 when muted. */
export function channelResponse(channel: Channel, sampleRate: Hertz, frequencies: Float64Array): Curve {
  const curve = unity(frequencies)
  applyChannel(curve, channel, sampleRate)
  return curve
}

function applyChannel(curve: Curve, channel: Channel, sampleRate: Hertz) {
  applySections(curve, channelSections(channel, sampleRate), sampleRate)
  applyGainAndDelay(curve, channelGain(channel), channel.delay)
}

/**
 * Complex response from the feed `from` (an output of the interface) to the output `to` that drives a
 * loudspeaker: the product
 * of every block on the way, summed where several routes meet. The only place that turns settings into a response.
 * Silent (all zero) where no route leads. Throws RangeError for a device that is not in the rig or cables that
 * run in a circle.
 */
export function pathResponse(rig: Rig, from: Endpoint, to: Endpoint, frequencies: Float64Array): Curve {
  const silent = () => ({
    frequencies,
    re: new Float64Array(frequencies.length),
    im: new Float64Array(frequencies.length),
    coherence: null,
  })
  const at = (output: Endpoint, seen: string[]): Curve | null => {
    if (output.device === from.device && output.channel === from.channel) return unity(frequencies)
    const device = rig.devices[output.device]
    if (!device) throw new RangeError(`There is no device ${output.device} in this rig`)
    const key = `${output.device}:${output.channel}`
    if (seen.includes(key)) throw new RangeError(`The cables run in a circle through ${output.device}`)
    const {
      capability: { sampleRate, latency },
      settings,
    } = device
    const out = settings.outputs[output.channel]
    if (!out || out.mute) return null
    let sum: Curve | null = null
    settings.matrix.forEach((row, i) => {
      const level = row[output.channel] ?? null
      const wire
        = level === null || settings.inputs[i]!.mute
          ? undefined
          : rig.wires.find(w => w.to.device === output.device && w.to.channel === i)
      const fed = wire && at(wire.from, [...seen, key])
      if (!fed) return
      applyChannel(fed, settings.inputs[i]!, sampleRate)
      applyGainAndDelay(fed, ratioOf(level!), latency)
      sum = sum ? add(sum, fed) : fed
    })
    if (sum) applyChannel(sum, out, sampleRate)
    return sum
  }
  return at(to, []) ?? silent()
}

function add(a: Curve, b: Curve): Curve {
  return { ...a, re: a.re.map((v, k) => v + b.re[k]!), im: a.im.map((v, k) => v + b.im[k]!) }
}

/** The mean response of all outputs that drive one source: what the source as a whole is given. */
export function sourceResponse(
  rig: Rig,
  from: Endpoint,
  outputs: readonly Endpoint[],
  frequencies: Float64Array,
): Curve {
  const curves = outputs.map(to => pathResponse(rig, from, to, frequencies))
  const sum = curves.reduce(add)
  applyGainAndDelay(sum, 1 / curves.length, 0)
  return sum
}

/** One device on a route: the signal enters at `input` and leaves at `output`. */
export interface Hop {
  device: string
  input: number
  output: number
}

/**
 * Routes along cables from the feed to an output, whatever is muted or unrouted on them: first those that carry
 * signal.
 */
export function routes(rig: Rig, from: Endpoint, to: Endpoint, seen: readonly string[] = []): Hop[][] {
  if (to.device === from.device) return to.channel === from.channel ? [[]] : []
  const device = rig.devices[to.device]
  if (!device || seen.includes(to.device)) return []
  const carries = (i: number) => (device.settings.matrix[i]?.[to.channel] ?? null) !== null
  return device.settings.inputs
    .map((_, input) => ({ input, wire: rig.wires.find(w => w.to.device === to.device && w.to.channel === input) }))
    .filter(({ input, wire }) => wire && (device.capability.matrix || input === to.channel))
    .sort((a, b) => Number(carries(b.input)) - Number(carries(a.input)))
    .flatMap(({ input, wire }) =>
      routes(rig, from, wire!.from, [...seen, to.device]).map(route => [
        ...route,
        { device: to.device, input, output: to.channel },
      ]),
    )
}

/** Every delay set on a route, the devices' own latency apart. */
export const setDelay = (rig: Rig, route: readonly Hop[]): Seconds =>
  route.reduce((sum, { device, input, output }) => {
    const { settings } = rig.devices[device]!
    return sum + settings.inputs[input]!.delay + settings.outputs[output]!.delay
  }, 0)

/** Delay in the electronics of a route: every delay set and every device's own latency. */
export const routeDelay = (rig: Rig, route: readonly Hop[]): Seconds =>
  setDelay(rig, route) + route.reduce((sum, { device }) => sum + rig.devices[device]!.capability.latency, 0)

/** True when the route lets sound through: nothing muted, every crosspoint connected. */
export const routeSounds = (rig: Rig, route: readonly Hop[]): boolean =>
  route.every(({ device, input, output }) => {
    const { settings } = rig.devices[device]!
    return (
      !settings.inputs[input]!.mute
      && !settings.outputs[output]!.mute
      && (settings.matrix[input]?.[output] ?? null) !== null
    )
  })
