import { standardGrid, unity, type SpectrumMaker } from '~~/core/dsp'
import { createLive, levelOf, type Live, type LiveOptions, type Ring, type ringReader } from '~~/core/measure'
import type { AnalysisAnswer, OtherMicrophone } from './messages'

const every = 200, searchEvery = 400, giveUpAfter = 3000, silence = -75

/** Measurements of further microphones beside the main one: each finds its own arrival and averages on its own. */
export function createOthers(ring: Ring, reader: ReturnType<typeof ringReader>, list: OtherMicrophone[], options: Omit<LiveOptions, 'microphone'>, spectrum: SpectrumMaker, post: (answer: AnalysisAnswer, transfer?: Transferable[]) => void) {
  const meter = new Float32Array(4096)
  const make = ({ channel, expected }: OtherMicrophone) => ({ channel, expected, live: createLive(ring, { ...options, microphone: channel, spectrum }) as Live, searching: true, since: performance.now() })
  let all = list.map(make), lastPost = 0, lastSearch = 0

  const levelNow = (channel: number) => {
    const written = reader.written()
    return written >= meter.length && reader.read(channel, written - meter.length, meter) ? levelOf(meter) : { peak: -Infinity, rms: -Infinity }
  }
  const columns = (live: Live) => {
    const curve = { ...unity(standardGrid), coherence: new Float64Array(standardGrid.length) }
    live.read(curve)
    return curve
  }
  return {
    channels: list.map(o => o.channel),
    step(now: number, mark: number) {
      const search = now - lastSearch > searchEvery
      if (search) lastSearch = now
      for (const one of all) {
        one.live.poll()
        if (!one.searching || !search) continue
        if (levelNow(options.reference).rms < silence) one.since = now
        const found = one.live.findArrival(), giveUp = !found && one.expected !== null && now - one.since > giveUpAfter
        if (found || giveUp) {
          one.searching = false
          one.live.setDelay(found ? found.time : one.expected!)
        }
      }
      if (now - lastPost < every) return
      lastPost = now
      for (const { channel, live, searching } of all) {
        if (searching || !live.heard) continue
        const { re, im, coherence } = columns(live)
        post({ type: 'other', channel, mark, re, im, coherence, delay: live.delay, blocks: live.blocks, level: levelNow(channel) }, [re.buffer, im.buffer, coherence.buffer])
      }
    },
    settings(next: Omit<LiveOptions, 'microphone'>) {
      options = next
      all = all.map(({ channel, expected, searching, live }) => {
        const fresh = make({ channel, expected })
        if (!searching) { fresh.searching = false; fresh.live.setDelay(live.delay) }
        return fresh
      })
    },
    restart(ago?: number) { for (const { live } of all) live.restart(ago) },
    find(expected: (number | null)[]) {
      all.forEach((one, n) => {
        one.expected = expected[n] ?? one.expected
        one.searching = true
        one.since = performance.now()
        one.live.restart()
      })
    },
    /** True while one of them has not measured everything often enough to be kept. */
    get pending() { return all.some(({ searching, live }) => searching || !live.complete) },
    /** Keeps what each of them measures now; those that are not ready are left out, and said to be. */
    take(mark: number) {
      for (const { channel, live, searching } of all) {
        if (searching || !live.complete) {
          post({ type: 'no-take', why: `Microphone ${channel} found no arrival of its own and was left out.` })
          continue
        }
        const { re, im, coherence } = columns(live), circular = live.impulse(), { length } = circular, early = length / 8, { sampleRate } = ring
        const impulse = Float32Array.from({ length }, (_, n) => circular[(n - early + length) % length]!), whole = Math.round(live.delay * sampleRate) / sampleRate
        post({ type: 'other-take', channel, mark, re, im, coherence, impulse, impulseStart: -early / sampleRate + whole - live.delay, blocks: live.blocks, delay: live.delay, length, sampleRate, arrival: live.delay }, [re.buffer, im.buffer, coherence.buffer, impulse.buffer])
      }
    },
  }
}
