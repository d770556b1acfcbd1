import { createBandMeter, fractionalOctaves, timeConstants } from '~~/core/measure'
import type { Correction, Ring, ringReader } from '~~/core/measure'
import type { BandsNow, Wants } from '~~/core/contract'

const chunk = 2048
/** Lowest and highest middle of the bands that a chart shows. */
export const shownBands = [16, 20_000] as const

/** Levels by filters of ring channels, from now on; what cannot be taken in time is left out. */
export function createBandMeters(
  ring: Ring,
  reader: ReturnType<typeof ringReader>,
  { part, time }: NonNullable<Wants['bands']>,
  correctionOf: (channel: number) => Correction | null,
) {
  const bands = fractionalOctaves(part, ...shownBands)
  const middles = bands.map(b => b.middle)
  const meters = new Map<number, ReturnType<typeof createBandMeter>>()
  const block = new Float32Array(chunk)
  let next = reader.written()
  return {
    /** Takes what the channels have, and tells their levels; null when there is nothing new. */
    read(channels: readonly number[]): { answer: BandsNow, transfer: Transferable[] } | null {
      const written = reader.written()
      if (written - next > ring.capacity / 2) next = written - chunk
      if (next + chunk > written) return null
      for (const c of meters.keys()) if (!channels.includes(c)) meters.delete(c)
      for (; next + chunk <= written; next += chunk)
        for (const c of channels) {
          const meter = meters.get(c) ?? createBandMeter(ring.sampleRate, bands, timeConstants[time])
          meters.set(c, meter)
          if (reader.read(c, next, block)) meter.push(block)
        }
      const levels = new Map([...meters].map(([c, meter]) => [c, Float32Array.from(meter.now())]))
      for (const [c, of] of levels) correctionOf(c)?.takeFromLevels(of, middles)
      return { answer: { type: 'bands', part, channels: levels }, transfer: [...levels.values()].map(l => l.buffer) }
    },
  }
}
