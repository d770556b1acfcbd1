import { decibelsOf, ratioOf, type Decibels, type Ratio, type Volts } from '../units'
import type { Limiter } from './blocks'
import type { Port } from './capability'
import { entering, leaving, louder, voltsOf, type SignalPoint } from './signalPoint'
import type { Parameter } from './parameters'
import { openRoutes, parametersIn, routeTo, stripAt, type Rig, type Step } from './path'
import { valueOf } from './settings'
import { sameEndpoint, type Endpoint } from './wiring'

/** The levels of one step of a route. */
export interface Stage {
  step: Step
  /** Behind its crosspoint; as it came in where there is none. */
  afterPoint: SignalPoint
  /** Behind its strip, still inside the device. */
  afterStrip: SignalPoint
  /** The connector by which the strip leaves, and the level there. */
  port: Port | undefined
  out: SignalPoint
}

const gainOf = (rig: Rig, device: string, p: Parameter): Ratio => {
  const { settings, capability } = rig.devices[device]!
  return Math.abs(p.kind.part(valueOf(settings, p), p.capability, capability.sampleRate).gain ?? 1)
}

/** Gain in dB of blocks in a row, filters not counted; null where one is silent. `opened`: silent ones are 0 dB. */
function gainsOf(rig: Rig, device: string, blocks: readonly Parameter[], opened: boolean): Decibels | null {
  let sum = 0
  for (const p of blocks) {
    const gain = gainOf(rig, device, p)
    if (gain > 0) sum += decibelsOf(gain)
    else if (!opened) return null
  }
  return sum
}

/**
 * Levels along a route, broadband (filters and limiters not counted): what ribbon, thresholds and headroom read.
 * `start` is the level before its first step; `opened` reads mutes and open crosspoints as 0 dB.
 */
export function gainStructure(rig: Rig, route: readonly Step[], start: SignalPoint, opened = false): Stage[] {
  let signal = start
  return route.map((step) => {
    const { device, strip, point, enters } = step
    const { capability } = rig.devices[device]!
    const { from } = capability.strips.find(s => s.id === strip)!
    const input = enters && 'port' in from ? capability.inputs[from.port] : undefined
    const came = enters ? entering(signal, input) : signal
    const afterPoint = point ? louder(came, gainsOf(rig, device, [point], opened)) : came
    const afterStrip = louder(afterPoint, gainsOf(rig, device, parametersIn(capability, strip), opened))
    const port = capability.outputs.find(o => o.strip === strip)
    const out = port ? leaving(afterStrip, port) : afterStrip
    signal = out
    return { step, afterPoint, afterStrip, port, out }
  })
}

/** Gain in dB of what a strip does behind one of its blocks; mutes are read as open. */
function gainBehind(rig: Rig, { device, channel }: Endpoint, path: string | null): Decibels {
  const at = stripAt(rig, { device, channel })
  if (path === null || !at) return 0
  const blocks = parametersIn(rig.devices[device]!.capability, at.strip)
  const n = blocks.findIndex(p => p.path === path)
  return n < 0 ? 0 : gainsOf(rig, device, blocks.slice(n + 1), true)!
}

/**
 * RMS voltage at a loudspeaker output of a sine that is at full scale in the strip of `output`, behind the block at
 * `path` (null: as it leaves). Ways that run side by side add up; mutes are read as open, and where no crosspoint is
 * connected it is read as 0 dB. Null where a full scale or the way is not known.
 */
export function voltsAtFullScale(
  rig: Rig,
  output: Endpoint,
  loudspeaker: Endpoint,
  path: string | null = null,
): Volts | null {
  const portAt = (e: Endpoint) => rig.devices[e.device]?.capability.outputs[e.channel]
  const [first, last] = [portAt(output), portAt(loudspeaker)]
  if (!first?.fullScale || last?.kind !== 'loudspeaker') return null
  const start: SignalPoint = { level: gainBehind(rig, output, path), fullScale: first.fullScale }
  if (sameEndpoint(output, loudspeaker)) return voltsOf(start)
  const open = openRoutes(rig, output, loudspeaker)
  const nearest = open.length ? null : routeTo(rig, output, loudspeaker)
  const routes = nearest ? [nearest] : open
  const volts = routes.map((route) => {
    const end = gainStructure(rig, route, start, true).at(-1)
    return end ? voltsOf(end.out) : null
  })
  return volts.length && volts.every(v => v !== null) ? volts.reduce((sum, v) => sum + v, 0) : null
}

/** dB by which a sine that a limiter just holds lies above what its number says of a sine whose peak is 1. */
const sineAtThreshold = { peak: 0, rms: decibelsOf(Math.SQRT2) } as const

/**
 * RMS voltage of a sine that a limiter just lets through, where a sine at full scale has `fullScale` volts RMS. A peak
 * detector compares with the sine's peak, which is 1 at full scale; an RMS detector with its RMS value, 1/√2 there.
 */
export const thresholdVolts = (
  fullScale: Volts,
  { detector, threshold }: Pick<Limiter, 'detector' | 'threshold'>,
): Volts => fullScale * ratioOf(threshold + sineAtThreshold[detector])

/** Threshold in dBFS at which a limiter of this detector holds a sine at so many volts RMS. */
export const thresholdFor = (volts: Volts, fullScale: Volts, detector: Limiter['detector']): Decibels =>
  decibelsOf(volts / fullScale) - sineAtThreshold[detector]
