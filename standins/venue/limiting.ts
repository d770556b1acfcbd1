import { createLimiter } from '../../core/dsp'
import type { FastFft } from '../../core/dsp/fastFft'
import {
  is, parametersIn, routeTo, sameEndpoint, valueOf, type Endpoint, type Limiter, type Rig,
} from '../../core/rig'
import { blockSize, createConvolver } from './convolver'

type Convolver = ReturnType<typeof createConvolver>
/** A limiter that is on, on the way to an output. */
interface At {
  /** 'processor outputs/0': its device and strip. */
  key: string
  /** The connector at which its strip leaves. */
  to: Endpoint
  numbers: Limiter
  /** Seconds that it hears ahead. */
  ahead: number
}
interface Standing extends At {
  limit: ReturnType<typeof createLimiter>
  /** What it hears of each feed; null at the last output, where that is what drives the loudspeaker. */
  sides: Map<string, Convolver> | null
  /** dB taken away in the last block. */
  reduction: number
}

/** Limiters on the route from a feed to an output that are on, in the order in which the signal meets them. */
function limitersOn(rig: Rig, from: Endpoint, to: Endpoint): At[] {
  return (routeTo(rig, from, to) ?? []).flatMap(({ device, strip }) => {
    const { capability, settings } = rig.devices[device]!
    const channel = capability.outputs.findIndex(o => o.strip === strip)
    if (channel < 0) return []
    return parametersIn(capability, strip).flatMap((p) => {
      if (!is(p, 'limiter')) return []
      const numbers = valueOf(settings, p)
      const { lookAhead: ahead = 0 } = p.capability
      return numbers.on ? [{ key: `${device} ${strip}`, to: { device, channel }, numbers, ahead }] : []
    })
  })
}

/**
 * The limiters of one output's electronics. A limiter's gain is found from the sound at its own place (the
 * electronics up to there, as convolutions of their own), and acts on what leaves at the end: the same as in its
 * place, but for what filters behind it smear while the gain moves.
 */
export function createLimiting(sampleRate: number, longest: number, fast: FastFft) {
  let standing: Standing[] = []
  const side = new Float32Array(blockSize)
  const one = new Float32Array(blockSize)

  return {
    /** What the devices hold now; `impulseOf` is the response of the electronics from a feed up to a connector. */
    follow(
      rig: Rig,
      feeds: readonly (readonly [id: string, from: Endpoint])[],
      output: Endpoint,
      impulseOf: (from: Endpoint, to: Endpoint) => Float64Array,
    ) {
      const next = new Map<string, Standing>()
      for (const [id, from] of feeds) {
        for (const at of limitersOn(rig, from, output)) {
          const known = next.get(at.key) ?? standing.find(s => s.key === at.key)
          const here: Standing = known ?? {
            ...at,
            limit: createLimiter(sampleRate, at.ahead),
            // what drives the loudspeaker comes too late for one that hears ahead
            sides: sameEndpoint(at.to, output) && !at.ahead ? null : new Map<string, Convolver>(),
            reduction: 0,
          }
          here.numbers = at.numbers
          if (here.sides) {
            const convolver = here.sides.get(id) ?? createConvolver(longest, fast)
            convolver.respond(impulseOf(from, at.to).subarray(Math.round(at.ahead * sampleRate)))
            here.sides.set(id, convolver)
          }
          next.set(at.key, here)
        }
      }
      standing = [...next.values()]
    },
    /** Limits a block of what drives the loudspeakers, in place. */
    apply(driven: Float32Array, feeds: Readonly<Record<string, Float32Array>>) {
      for (const s of standing) {
        if (!s.sides) {
          side.set(driven)
          s.reduction = s.limit(driven, side, s.numbers)
          continue
        }
        side.fill(0)
        for (const [id, convolver] of s.sides) {
          const feed = feeds[id]
          if (!feed) continue
          convolver.process(feed, one)
          for (let n = 0; n < blockSize; n++) side[n]! += one[n]!
        }
        s.reduction = s.limit(driven, side, s.numbers)
      }
    },
    /** dB that each limiter takes away now, by its device and strip. */
    tell(into: Record<string, number>) {
      for (const { key, reduction } of standing) into[key] = Math.max(into[key] ?? 0, reduction)
    },
  }
}
