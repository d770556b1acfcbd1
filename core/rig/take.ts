import { divide, multiply, type Curve } from '../dsp'
import { differences, parsePath, type Difference } from './parameter'
import { routes, sourceResponse, type Rig } from './response'
import type { Channel, Settings } from './settings'
import type { Endpoint, Place, Position, Source } from './site'

/** Settings of every device on a source's path, as they were in the devices when a take was made. */
export type PathSettings = Record<string, Settings>

/** Names of the devices on the way from the feed to the outputs of a source. */
export const devicesOnPath = (rig: Rig, from: Endpoint, outputs: readonly Endpoint[]): string[] => [
  ...new Set(outputs.flatMap(to => routes(rig, from, to)).flatMap(route => route.map(hop => hop.device))),
]

/** The rig with other settings in the devices named. */
export const withSettings = (rig: Rig, settings: PathSettings): Rig => ({
  ...rig,
  devices: Object.fromEntries(
    Object.entries(rig.devices).map(([id, d]) => [id, settings[id] ? { ...d, settings: settings[id] } : d]),
  ),
})

/**
 * The rig with its mutes open and its missing crosspoints as they were in `like`: whether a source sounds at
 * the moment says
 * nothing about what its filters do.
 */
export function asIfSounding(rig: Rig, like: PathSettings): Rig {
  const open = (c: Channel): Channel => ({ ...c, mute: false })
  return withSettings(
    rig,
    Object.fromEntries(
      Object.entries(rig.devices).map(([id, { settings }]) => [
        id,
        {
          ...settings,
          inputs: settings.inputs.map(open),
          outputs: settings.outputs.map(open),
          matrix: settings.matrix.map((row, i) => row.map((level, o) => level ?? like[id]?.matrix[i]?.[o] ?? null)),
        },
      ]),
    ),
  )
}

/**
 * What a position will read after an edit: take × (new path / path when taken). `now` is the rig with the
 * settings to be judged,
 * `then` the settings in the devices when the curve was measured.
 */
export function predict(
  measured: Curve,
  now: Rig,
  then: PathSettings,
  from: Endpoint,
  outputs: readonly Endpoint[],
): Curve {
  const f = measured.frequencies
  return multiply(
    measured,
    divide(
      sourceResponse(asIfSounding(now, then), from, outputs, f),
      sourceResponse(asIfSounding(withSettings(now, then), then), from, outputs, f),
    ),
  )
}

/**
 * Settings on a source's path that differ from those a take was made with; mutes and routing on or off do not
 * count.
 */
export function staleness(
  now: Rig,
  then: PathSettings,
  from: Endpoint,
  outputs: readonly Endpoint[],
): (Difference & { device: string })[] {
  const hops = outputs.flatMap(to => routes(now, from, to)).flat()
  return Object.entries(then).flatMap(([id, settings]) => {
    const device = now.devices[id]
    if (!device) return []
    return differences(device.capability, settings, device.settings)
      .filter(({ path, from: was, to: is }) => {
        const a = parsePath(path)!
        if (a.field === 'mute' || (a.field === 'crosspoint' && (was === null || is === null))) return false
        return hops.some(
          h =>
            h.device === id
            && (a.side === 'matrix'
              ? h.input === a.channel && h.output === a.index
              : a.channel === (a.side === 'inputs' ? h.input : h.output)),
        )
      })
      .map(d => ({ ...d, device: id }))
  })
}

/**
 * Which of a source's cabinets and a position's microphone stand elsewhere than when a take was made (by more
 * than 5 mm).
 */
export function movedParts(
  geometry: { cabinets: Place[], microphone: Place },
  source: Source,
  position: Position,
): { source: boolean, position: boolean } {
  const apart = (a: Place, b: Place | undefined) => !b || Math.hypot(a.x - b.x, a.y - b.y, a.z - b.z) > 0.005
  return {
    source:
      source.elements.length !== geometry.cabinets.length
      || source.elements.some((e, n) => apart(e.place, geometry.cabinets[n])),
    position: apart(position.place, geometry.microphone),
  }
}
