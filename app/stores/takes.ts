import { defineStore } from 'pinia'
import { decodeTake, encodeTake, type TakeData, type TakeInfo } from '~~/core/formats/take'
import { textOfCurve, writeCurveText } from '~~/core/formats/curveText'
import { writeWav, type WavKind } from '~~/core/formats/wav'
import { average, smooth } from '~~/core/measure'
import { movedParts, parameterName, predict, showParameter, staleness } from '~~/core/rig'
import { divide, onGrid, standardGrid, type Curve } from '~~/core/dsp'
import type { Drawn } from '~/components/plate/traces'
import type { FileAnswer, FileRequest } from '~/workers/messages'
import type { TakeRecord } from '~~/server/db/sites'
import type { TakeChange } from '~~/server/rig/takes'
import { ask, askBytes } from '~/utils/api'
import { download } from '~/utils/download'

/** What is made of the takes in view. */
export const makings = {
  none: 'nothing',
  power: 'power average',
  complex: 'complex average',
  level: 'average of levels',
  difference: 'difference of two',
} as const
export type Making = keyof typeof makings

/** Kept measurements: their curves, whether they are still true, what they predict, and what is made of them. */
export const useTakes = defineStore('takes', () => {
  const site = useSite()
  const view = useView()
  const charts = useCharts()
  const listen = useListen()
  const notices = useNotices()
  const data = shallowRef<Record<string, TakeData>>({})
  const asked = new Set<string>()
  const making = ref<Making>('none')
  const byTrust = ref(true)

  /** Where a take stands in its cell: by its own place, else by its time. */
  const placeOf = (t: TakeRecord) => t.place ?? new Date(t.at).getTime()
  const all = computed(() => site.site?.takes ?? [])

  const load = async (id: string) => {
    if (asked.has(id)) return
    asked.add(id)
    try {
      const { curve, impulse } = decodeTake(await askBytes(site.path(`/takes/${id}/data`)))
      data.value = { ...data.value, [id]: { curve: onGrid(curve, standardGrid), impulse } }
    }
    catch (error) {
      asked.delete(id)
      notices.fail(error)
    }
  }

  /** What was moved in the plan since a take was made. */
  function movedSince(t: TakeRecord): string[] {
    const source = site.site!.sources.find(s => s.id === t.sourceId)
    const position = site.site!.positions.find(p => p.id === t.positionId)
    const { geometry } = t.info
    if (!geometry || !source || !position) return []
    const moved = movedParts(geometry, source, position)
    return [
      ...(moved.source ? [`${source.name} was moved.`] : []),
      ...(moved.position ? [`${position.name} was moved.`] : []),
    ]
  }

  /** Why each take no longer tells what is there: settings in the devices, or places; empty where it still does. */
  const stale = computed(() =>
    Object.fromEntries(
      all.value.map(t => [
        t.id,
        [
          ...movedSince(t),
          ...staleness(site.heldRig, t.settings, t.feed, site.outputsOf(t.sourceId)).map(
            d =>
              `${site.deviceOf(d.device)?.name}: ${parameterName(d.path)} ${showParameter(d.path, d.from)} → `
              + `${showParameter(d.path, d.to)}`,
          ),
        ],
      ]),
    ),
  )

  /** Takes whose settings differ from the drafts: those have a prediction of their own. */
  const moved = computed(
    () =>
      new Set(
        all.value
          .filter(t => staleness(site.draftRig, t.settings, t.feed, site.outputsOf(t.sourceId)).length)
          .map(t => t.id),
      ),
  )

  const inCell = (source: string, position: string) =>
    all.value.filter(t => t.sourceId === source && t.positionId === position)
  const cellOf = (t: TakeRecord) => `${t.sourceId}/${t.positionId}`

  const picked = computed(() =>
    view.cell ? inCell(view.cell.source, view.cell.position).sort((a, b) => placeOf(a) - placeOf(b)) : [],
  )
  /** The picked cell's takes, and of each cell laid over it the newest. */
  const shown = computed(() => [
    ...picked.value.filter(t => !view.hidden.includes(t.id)),
    ...view.overlaid
      .filter(c => !view.cell || c !== `${view.cell.source}/${view.cell.position}`)
      .flatMap(c => all.value.filter(t => cellOf(t) === c).slice(-1)),
  ])
  watch(shown, list => list.forEach(t => void load(t.id)), { immediate: true })

  /** The curve as it is viewed: level offset and time shift of its own. */
  function viewed(curve: Curve, t: TakeRecord): Curve {
    if (!t.offset && !t.shift) return curve
    const gain = 10 ** (t.offset / 20)
    const turn = (k: number) => 2 * Math.PI * curve.frequencies[k]! * t.shift
    return {
      ...curve,
      re: curve.re.map((r, k) => gain * (r * Math.cos(turn(k)) - curve.im[k]! * Math.sin(turn(k)))),
      im: curve.im.map((i, k) => gain * (i * Math.cos(turn(k)) + curve.re[k]! * Math.sin(turn(k)))),
    }
  }
  const smoothed = (curve: Curve) => smooth(curve, view.smoothing, undefined, charts.settings.complexSmoothing)
  const curves = computed(() =>
    shown.value.flatMap(take =>
      data.value[take.id]
        ? [{ take, data: data.value[take.id]!, raw: viewed(data.value[take.id]!.curve, take) }]
        : [],
    ),
  )
  const measured = computed(() => curves.value.map(c => ({ ...c, curve: smoothed(c.raw) })))
  const predicted = computed(() =>
    curves.value.flatMap(({ take: t, raw }) =>
      moved.value.has(t.id)
        ? [
            {
              take: t,
              curve: smoothed(predict(raw, site.draftRig, t.settings, t.feed, site.outputsOf(t.sourceId))),
            },
          ]
        : [],
    ),
  )

  /** Average or difference of what is in view, unsmoothed. */
  const made = computed<(Drawn & { low?: Float64Array, high?: Float64Array })[]>(() => {
    const look = { hue: 7, dash: 0, predicted: false, strong: true }
    if (making.value === 'none') return []
    if (making.value === 'difference') {
      const [a, b] = [
        ...(listen.curve ? [{ name: 'now', raw: listen.curve }] : []),
        ...curves.value.map(c => ({ name: shortName(c.take), raw: c.raw })),
      ]
      return a && b
        ? [
            {
              ...look,
              id: 'made',
              name: `${a.name} − ${b.name}`,
              curve: { ...divide(a.raw, b.raw), coherence: null },
            },
          ]
        : []
    }
    if (curves.value.length < 2) return []
    try {
      const weight = (t: TakeRecord) => site.site!.positions.find(p => p.id === t.positionId)?.weight ?? 1
      return [
        {
          ...look,
          id: 'made',
          name: `${makings[making.value]} of ${curves.value.length}`,
          ...average(
            curves.value.map(c => ({ curve: c.raw, weight: weight(c.take) })),
            making.value,
            byTrust.value,
          ),
        },
      ]
    }
    catch {
      return []
    } // all weights 0: the panel says so
  })

  /** A take's name, as short as its surroundings allow. */
  function shortName(t: TakeRecord): string {
    const own = view.cell && cellOf(t) === `${view.cell.source}/${view.cell.position}`
    const number = /^.* · .* (\d+)$/.exec(t.name)?.[1]
    return own && number ? `take ${number}` : t.name
  }

  const change = (id: string, body: TakeChange) =>
    ask(site.path(`/takes/${id}`), { method: 'PATCH', body }).catch(notices.fail)
  /** Puts a take before or after its neighbour in the cell. */
  function move(t: TakeRecord, by: 1 | -1) {
    const list = picked.value
    const at = list.findIndex(x => x.id === t.id) + by
    const next = list[at]
    const beyond = list[at + by]
    if (next)
      void change(t.id, { place: beyond ? (placeOf(next) + placeOf(beyond)) / 2 : placeOf(next) + by * 1000 })
  }
  async function remove(t: TakeRecord) {
    await change(t.id, { deleted: true })
    notices.say('warn', `“${t.name}” was deleted.`, {
      name: 'Bring it back',
      run: () => void change(t.id, { deleted: false }),
    })
  }
  const duplicate = (id: string) => ask(site.path(`/takes/${id}/duplicate`), { method: 'POST' }).catch(notices.fail)

  /** Stores a take, in the picked cell unless another is named. */
  async function store(
    kept: TakeData,
    info: TakeInfo,
    name?: string,
    cell = view.cell,
  ): Promise<TakeRecord | null> {
    if (!cell) {
      notices.say('warn', 'Pick a cell in the ledger first: where does this belong?')
      return null
    }
    const head = new TextEncoder().encode(JSON.stringify({ ...cell, info, ...(name ? { name } : {}) }))
    const size = new Uint8Array(4)
    new DataView(size.buffer).setUint32(0, head.length, true)
    try {
      const record = await ask<TakeRecord>(site.path('/takes'), {
        method: 'POST',
        bytes: new Blob([size, head, encodeTake(kept)]),
      })
      const other = ['live', 'sweep'].includes(info.method) && !site.fed(cell.source)
      if (other)
        notices.say(
          'warn',
          `Kept “${record.name}”, though no signal reaches `
          + `${site.site!.sources.find(s => s.id === cell.source)?.name} by the settings in its devices: it holds `
          + `another loudspeaker’s sound.`,
          { name: 'Delete it', run: () => void change(record.id, { deleted: true }) },
        )
      else notices.say('info', `Kept “${record.name}”.`)
      return record
    }
    catch (error) {
      notices.fail(error)
      return null
    }
  }
  const plainInfo = {
    sampleRate: 48_000,
    length: 16_384,
    blocks: 1,
    delay: 0,
    arrival: null,
    microphoneLevel: null,
    referenceLevel: null,
    impulseStart: 0,
    revisions: {},
  }
  const keepMade = () =>
    made.value[0]
    && store(
      { curve: made.value[0].curve, impulse: new Float32Array(0) },
      { ...plainInfo, method: 'average', input: made.value[0].name },
      made.value[0].name,
    )

  /** A measurement from a file, into the picked cell. */
  async function importFile(file: File) {
    const worker = new Worker(new URL('../workers/files.worker.ts', import.meta.url), { type: 'module' })
    try {
      const bytes = await file.arrayBuffer()
      const told = await new Promise<{ ok: true, answer: FileAnswer } | { ok: false, why: string }>(
        (resolve, reject) => {
          worker.onmessage = event => resolve(event.data)
          worker.onerror = event => reject(new Error(event.message))
          worker.postMessage({ name: file.name, bytes } satisfies FileRequest, [bytes])
        },
      )
      if (!told.ok) return notices.say('error', `“${file.name}” was not imported: ${told.why} Nothing was changed.`)
      const { curve, impulse, sampleRate, start, blocks, arrival, delay, note } = told.answer
      await store(
        { curve, impulse },
        {
          ...plainInfo,
          method: 'import',
          input: `${file.name}: ${note}`.slice(0, 200),
          sampleRate,
          length: 2 ** Math.max(6, Math.min(21, Math.ceil(Math.log2(Math.max(64, impulse.length))))),
          blocks,
          arrival,
          delay,
          impulseStart: start,
        },
        file.name.replace(/\.[^.]+$/, '').slice(0, 120),
      )
    }
    catch (error) {
      notices.fail(error)
    }
    finally {
      worker.terminate()
    }
  }

  /** A take as a file: its curve as it was kept (without offset or shift), or its impulse response. */
  async function exportTake(t: TakeRecord, kind: 'text' | 'csv' | WavKind) {
    try {
      const { curve, impulse } = decodeTake(await askBytes(site.path(`/takes/${t.id}/data`)))
      if (kind === 'text' || kind === 'csv')
        return download(
          `${t.name}.${kind === 'csv' ? 'csv' : 'txt'}`,
          writeCurveText(textOfCurve(curve), kind),
          'text/plain',
        )
      if (!impulse.length) return notices.say('warn', `“${t.name}” has no impulse response.`)
      download(`${t.name}.wav`, writeWav({ sampleRate: t.info.sampleRate, channels: [impulse] }, kind), 'audio/wav')
    }
    catch (error) {
      notices.fail(error)
    }
  }

  return {
    all,
    stale,
    moved,
    inCell,
    picked,
    shown,
    measured,
    predicted,
    made,
    making,
    byTrust,
    shortName,
    change,
    move,
    remove,
    duplicate,
    store,
    keepMade,
    importFile,
    exportTake,
  }
})
