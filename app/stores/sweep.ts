import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import { standardGrid, type SweepPlan } from '~~/core/dsp'
import { splitTap, type SweepResult } from '~~/core/measure'
import { readParameter, type ParameterValue } from '~~/core/rig'
import { feedOnly } from '~/composables/useRibbon'
import type { SweepFailed, SweepNext, SweepProgress, Swept } from '~/workers/messages'

interface Setting {
  device: string
  path: string
  value: ParameterValue
}
interface SweepCell {
  source: string
  position: string
}

class Ended extends Error {}

/** Sweeps: one at the picked cell, or one by one over the whole ledger, with the other loudspeakers muted meanwhile. */
export const useSweep = defineStore('sweep', () => {
  const site = useSite()
  const view = useView()
  const listen = useListen()
  const takes = useTakes()
  const notices = useNotices()
  const sets = useSets()
  const inputs = useInputs()
  const corrections = useCorrections()
  const plan = useLocalStorage<SweepPlan & { repeats: number }>('kovrin-sweep', {
    low: 20,
    high: 20_000,
    seconds: 3,
    level: -20,
    repeats: 1,
  })
  /** Mutes and connections as they were before a round of sweeps: put back whatever happens, also after a reload. */
  const toRestore = useLocalStorage<{ site: string, mutes: Setting[], matrix: Setting[] } | null>(
    'kovrin-sweep-restore',
    null,
    { serializer: { read: JSON.parse, write: JSON.stringify } },
  )
  const state = ref<'idle' | 'checking' | 'sweeping'>('idle')
  const done = ref(0)
  const round = ref<{ at: number, of: number, name: string } | null>(null)
  const last = shallowRef<SweepResult | null>(null)
  /** Set by Stop and by Hush; whatever waits looks at it. */
  let ended = false
  let endRecording: (() => void) | null = null
  const goOn = () => {
    if (ended) throw new Ended()
  }

  /** Resolves when `test` holds; rejects when it does not within `seconds`, or when the sweep is ended. */
  const until = (test: () => boolean, seconds: number, why: string) =>
    new Promise<void>((resolve, reject) => {
      const started = performance.now()
      const timer = setInterval(() => {
        if (test()) {
          clearInterval(timer)
          resolve()
        }
        else if (ended) {
          clearInterval(timer)
          reject(new Ended())
        }
        else if (performance.now() - started > seconds * 1000) {
          clearInterval(timer)
          reject(new Error(why))
        }
      }, 30)
    })

  const pause = async (ms: number) => {
    await new Promise(next => setTimeout(next, ms))
    goOn()
  }

  /** A short noise at the sweep's level: whether the microphone will hear it, and not clip. */
  async function checkLevel() {
    state.value = 'checking'
    const { noiseLevel } = listen
    try {
      listen.noiseLevel = plan.value.level
      await listen.turnNoise(true)
      // the signal's own tap and a cable have its level; a microphone as the reference whatever the air leaves of it
      await until(
        () =>
          listen.levels.reference.rms
          > Math.max(-70, plan.value.level - (sets.front && splitTap(sets.front.reference) ? 40 : 4)),
        8,
        'The reference stays silent. Is it wired to the right channel?',
      )
      await pause(350)
      const { microphone } = listen.levels
      if (microphone.peak > -3)
        throw new Error(
          `The microphone would clip (peak ${microphone.peak.toFixed(0)} dBFS): turn it or the sweep down by `
          + `${Math.ceil(microphone.peak + 9)} dB.`,
        )
      if (microphone.rms < -68)
        throw new Error(
          `The microphone hears too little (${microphone.rms.toFixed(0)} dBFS): is the loudspeaker fed and the `
          + `microphone on? The path ribbon says where it ends.`,
        )
    }
    finally {
      await listen.turnNoise(false)
      listen.noiseLevel = noiseLevel
    }
  }

  const record = () =>
    new Promise<Swept>((resolve, reject) => {
      state.value = 'sweeping'
      done.value = 0
      const over = (settle: () => void) => {
        listen.hearSweep(null)
        endRecording = null
        settle()
      }
      listen.hearSweep((answer: SweepProgress | SweepNext | Swept | SweepFailed) => {
        if (answer.type === 'sweeping') done.value = answer.done
        else if (answer.type === 'sweep-now')
          listen.toGenerator({
            type: 'sweep',
            plan: {
              low: plan.value.low,
              high: plan.value.high,
              seconds: plan.value.seconds,
              level: plan.value.level,
            },
          })
        else if (answer.type === 'swept') over(() => resolve(answer))
        else over(() => reject(new Error(answer.why)))
      })
      endRecording = () =>
        over(() => {
          listen.toAnalysis({ type: 'end-recording' })
          listen.toGenerator({ type: 'hush' })
          reject(new Ended())
        })
      const { repeats, ...sweep } = plan.value
      listen.toAnalysis({ type: 'record', plan: { ...sweep }, repeats })
    })

  /** One sweep at the picked cell, kept as a take. */
  async function sweepCell() {
    if (!view.cell)
      throw new Error('Pick a cell in the ledger first: which loudspeaker is this, and where is the microphone?')
    if (listen.input === 'venue' && !site.fed(view.cell.source))
      throw new Error(
        `${site.site!.sources.find(s => s.id === view.cell!.source)?.name} gets no signal: the sweep would record `
        + `another loudspeaker. Press “Feed only this” in the path ribbon, then sweep.`,
      )
    await listen.start()
    await until(() => listen.running, 5, 'The sound input did not open.')
    await checkLevel()
    await pause(250) // the noise has died away
    const revisions = { ...site.revisions }
    const { heard, repeats } = await record()
    const { source } = view.cell
    last.value = heard[0]!.result
    const kept = new Set<string>()
    for (const { id, result, re, im } of heard) {
      const m = sets.rows.find(x => x.id === id)
      const at = m && sets.placeOf(m)?.id
      if (!m || !at || kept.has(at)) continue // a second microphone at the same place adds nothing
      kept.add(at)
      await takes.store(
        {
          curve: corrections.corrected({ frequencies: standardGrid, re, im, coherence: null }, m.microphone),
          impulse: result.impulse,
        },
        {
          method: 'sweep',
          input: inputs.labelOf(m.microphone, true),
          sampleRate: result.sampleRate,
          length: 2 ** 17,
          blocks: repeats,
          delay: result.arrival,
          arrival: result.arrival,
          microphoneLevel: null,
          referenceLevel: null,
          impulseStart: result.start - result.arrival,
          revisions,
          sweep: {
            ...plan.value,
            signalToNoise: result.signalToNoise.map(b => ({ middle: b.middle, level: b.level })),
            harmonics: result.harmonics.map(h => ({
              order: h.order,
              frequencies: Array.from(h.frequencies),
              level: Array.from(h.level),
            })),
          },
        },
        undefined,
        { source, position: at },
      )
    }
  }

  async function guarded(job: () => Promise<void>) {
    if (state.value !== 'idle') return
    state.value = 'checking'
    ended = false
    try {
      await job()
    }
    catch (error) {
      if (error instanceof Ended) notices.say('info', 'The sweep was ended. What was kept before stays.')
      else notices.fail(error)
    }
    finally {
      state.value = 'idle'
      round.value = null
    }
  }

  const mutesOf = (sourceId: string) =>
    site.outputsOf(sourceId).map(o => ({ device: o.device, path: `/outputs/${o.channel}/mute` }))
  /** Puts every connection and every mute back as it was. */
  async function restore() {
    const kept = toRestore.value
    if (!kept || kept.site !== site.site?.id) return
    for (const { device, path, value } of [...kept.matrix, ...kept.mutes])
      await site.edit(device, path, value, true, null)
    toRestore.value = null
    notices.say('info', 'Mutes and connections are as they were before the sweeps.')
  }
  const solo = async (sourceId: string) => {
    const own = mutesOf(sourceId)
    const wanted = (m: { device: string, path: string }) =>
      !own.some(o => o.device === m.device && o.path === m.path)
    const all = toRestore.value!.mutes as { device: string, path: string, value: boolean }[]
    const edits = [
      ...all.filter(wanted).map(m => ({ ...m, value: true })),
      ...all.filter(m => !wanted(m)).map(m => ({ ...m, value: false })),
    ] // silence first, then sound
    for (const { device, path, value } of edits) {
      goOn()
      await site.edit(device, path, value, true, null)
    }
    for (const { device, path, to } of feedOnly(site, sourceId)) {
      goOn()
      await site.edit(device, path, to, true, null)
    }
  }

  /**
   * Cells still to be swept: without a fresh take by sweep. The simulated microphone walks; real ones stay
   * where they are.
   */
  const todo = computed<SweepCell[]>(() => {
    const positions = (site.site?.positions ?? []).filter(
      p => listen.input === 'venue' || sets.able.some(m => sets.placeOf(m)?.id === p.id),
    )
    return positions
      .flatMap(p => (site.site?.sources ?? []).map(s => ({ source: s.id, position: p.id })))
      .filter(
        c => !takes.inCell(c.source, c.position).some(t => t.info.method === 'sweep' && !takes.stale[t.id]!.length),
      )
  })

  const sweepAll = () =>
    guarded(async () => {
      const cells = [...todo.value]
      if (!cells.length) return notices.say('info', 'Every cell has a fresh sweep already.')
      const outputs = site
        .site!.sources.flatMap(s => mutesOf(s.id))
        .filter((m, k, all) => all.findIndex(x => x.device === m.device && x.path === m.path) === k)
      if (!toRestore.value) {
        const now = ({ device, path }: { device: string, path: string }) => ({
          device,
          path,
          value: readParameter(site.drafts[device]!, path),
        })
        const points = site
          .site!.sources.flatMap(s => feedOnly(site, s.id))
          .filter((m, k, all) => all.findIndex(x => x.device === m.device && x.path === m.path) === k)
        toRestore.value = { site: site.site!.id, mutes: outputs.map(now), matrix: points.map(now) }
      }
      const failed: string[] = []
      const stands = listen.input === 'computer' ? view.cell?.position : undefined
      try {
        let source = ''
        for (const [n, c] of cells.entries()) {
          if (takes.inCell(c.source, c.position).some(t => t.info.method === 'sweep' && !takes.stale[t.id]!.length))
            continue // heard by another microphone meanwhile
          const name = `${site.site!.sources.find(s => s.id === c.source)!.name} at `
            + `${site.site!.positions.find(p => p.id === c.position)!.name}`
          round.value = { at: n + 1, of: cells.length, name }
          goOn()
          if (c.source !== source) await solo((source = c.source))
          view.cell = { source: c.source, position: stands ?? c.position }
          try {
            await sweepCell()
          }
          catch (error) {
            if (error instanceof Ended) throw error
            failed.push(`${name}: ${(error as Error).message}`)
          }
        }
        notices.say(
          failed.length ? 'warn' : 'info',
          failed.length
            ? `${cells.length - failed.length} of ${cells.length} cells were swept. `
            + `${failed[0]}${failed.length > 1 ? ` (and ${failed.length - 1} more)` : ''}`
            : `All ${cells.length} cells were swept.`,
        )
      }
      finally {
        await restore()
      }
    })

  const stop = () => {
    ended = true
    endRecording?.()
  }
  watch(() => listen.hushed, stop)
  watch(
    () => site.connected && toRestore.value && state.value === 'idle' && toRestore.value.site === site.site?.id,
    (left) => {
      if (left) void restore()
    },
  )

  return { plan, state, done, round, last, todo, one: () => guarded(sweepCell), sweepAll, stop }
})
