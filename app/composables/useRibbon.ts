import { speedOfSound, distance } from '~~/core/acoustics'
import { channelSections, differences, parsePath, routes, type Channel, type Settings } from '~~/core/rig'
import { showDelay, showLevel, showNumber } from '~~/core/units'
import type { PickedBlock } from '~/stores/view'

/** One block of the path from feed to microphone: what it adds, and the level behind it. */
export interface RibbonBlock {
  key: string
  title: string
  adds: string[]
  /** Gain of the path so far in dB, filters not counted; null when silent from here on. */
  level: number | null
  muted: boolean
  unsent: boolean
  edits: PickedBlock | null
}

const filters = (c: Channel, rate: number): string[] => {
  const bands = c.eq.filter(b => b.on).length
  return [
    ...(c.highPass?.on ? [`high-pass ${c.highPass.frequency} Hz`] : []),
    ...(c.lowPass?.on ? [`low-pass ${c.lowPass.frequency} Hz`] : []),
    ...(bands && channelSections({ ...c, highPass: null, lowPass: null }, rate).length
      ? [`${bands} EQ ${bands === 1 ? 'band' : 'bands'}`]
      : []),
  ]
}

const channelAdds = (c: Channel, rate: number): string[] => [
  ...(c.mute ? ['muted'] : []),
  ...(c.gain !== 0 ? [showLevel(c.gain)] : []),
  ...(c.turned ? ['polarity turned'] : []),
  ...(c.delay > 0 ? [showDelay(c.delay)] : []),
  ...filters(c, rate),
]

/** The ribbon of the picked source through its output number `which`. */
export function useRibbon(which: Ref<number>) {
  const site = useSite()
  const view = useView()
  const listen = useListen()
  const sets = useSets()

  return computed<RibbonBlock[]>(() => {
    const s = site.site
    const source = s?.sources.find(x => x.id === view.cell?.source)
    if (!s || !source) return []
    const position
      = (listen.running && listen.front && sets.placeOf(listen.front))
        || s.positions.find(p => p.id === view.cell?.position)
    const outputs = site.outputsOf(source.id)
    const to = outputs[which.value] ?? outputs[0]!
    const route = routes(site.draftRig, s.plan.feed, to)[0] ?? []
    let level: number | null = listen.noiseLevel
    const blocks: RibbonBlock[] = [
      {
        key: 'feed',
        title: 'Kovrin’s noise',
        adds: [listen.noise ? `${listen.noiseLevel} dBFS` : 'quiet'],
        level,
        muted: false,
        unsent: false,
        edits: null,
      },
    ]

    const push = (block: Omit<RibbonBlock, 'level'>, gain: number | null) => {
      level = level === null || gain === null ? null : level + gain
      blocks.push({ ...block, level })
    }
    const changed = (device: string, test: (side: string, channel: number, index: number) => boolean) =>
      (site.unsent[device] ?? []).some((d) => {
        const a = parsePath(d.path)!
        return test(a.side, a.channel, a.index)
      })
    const channel = (device: string, side: 'inputs' | 'outputs', n: number, settings: Settings, title: string) => {
      const c = settings[side][n]!
      const rate = s.devices.find(d => d.id === device)!.capability.sampleRate
      const adds = channelAdds(c, rate)
      push(
        {
          key: `${device}-${side}-${n}`,
          title,
          adds: adds.length ? adds : ['adds nothing'],
          muted: c.mute,
          unsent: changed(device, (x, k) => x === side && k === n),
          edits: { device, side, channel: n },
        },
        c.mute ? null : c.gain,
      )
    }

    for (const { device, input, output } of route) {
      const d = s.devices.find(x => x.id === device)!
      const settings = site.draftRig.devices[device]!.settings
      channel(
        device,
        'inputs',
        input,
        settings,
        d.capability.matrix ? `${d.name} in ${input + 1}` : `${d.name.split(' (')[0]} in ${input + 1}`,
      )
      if (d.capability.matrix) {
        const point = settings.matrix[input]![output]!
        push(
          {
            key: `${device}-m`,
            title: `Matrix ${input + 1} → ${output + 1}`,
            adds: [point === null ? 'not connected' : showLevel(point)],
            muted: point === null,
            unsent: changed(device, (x, i, o) => x === 'matrix' && i === input && o === output),
            edits: null,
          },
          point,
        )
      }
      channel(device, 'outputs', output, settings, `${d.name.split(' (')[0]} out ${output + 1}`)
    }
    const cabinets = source.elements.filter(
      e => e.output.device === to.device && e.output.channel === to.channel,
    ).length
    push(
      {
        key: 'source',
        title: source.name,
        adds: [`${cabinets} ${cabinets === 1 ? 'cabinet' : 'cabinets'}`],
        muted: false,
        unsent: false,
        edits: null,
      },
      0,
    )
    if (position) {
      const metres = Math.min(...source.elements.map(e => distance(e.place, position.place)))
      const mic = listen.levels.microphone.rms
      blocks.push({
        key: 'air',
        title: 'Air',
        adds: [`${showNumber(metres, 1)} m, ${showDelay(metres / speedOfSound(s.plan.air.temperature))}`],
        level,
        muted: false,
        unsent: false,
        edits: null,
      })
      blocks.push({
        key: 'mic',
        title: `Microphone, ${position.name}`,
        adds: [Number.isFinite(mic) ? `hears ${showNumber(mic, 0)} dBFS` : 'not listening'],
        level: Number.isFinite(mic) ? mic : null,
        muted: false,
        unsent: false,
        edits: null,
      })
    }
    return blocks
  })
}

/** Crosspoints that would feed only one source, as edits of the processor's matrix. */
export function feedOnly(site: ReturnType<typeof useSite>, sourceId: string) {
  const s = site.site!
  const feed = s.plan.feed
  const wanted = site
    .outputsOf(sourceId)
    .flatMap(to => routes(site.draftRig, feed, to).flat())
    .filter(h => site.deviceOf(h.device)!.capability.matrix)
  return s.devices
    .filter(d => d.capability.matrix)
    .flatMap((d) => {
      const inputs = s.plan.wires
        .filter(w => w.from.device === feed.device && w.from.channel === feed.channel && w.to.device === d.id)
        .map(w => w.to.channel)
      const now = site.drafts[d.id]!
      const then: Settings = {
        ...now,
        matrix: now.matrix.map((row, i) =>
          !inputs.includes(i)
            ? row
            : row.map((level, o) =>
                wanted.some(h => h.device === d.id && h.input === i && h.output === o) ? (level ?? 0) : null,
              ),
        ),
      }
      // first what falls silent, then what begins to sound
      return differences(d.capability, now, then)
        .sort((a, b) => Number(a.to !== null) - Number(b.to !== null))
        .map(e => ({ device: d.id, ...e }))
    })
}
