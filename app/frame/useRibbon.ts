import { distance, speedOfSound } from '~~/core/acoustics'
import {
  parametersIn,
  routeTo,
  sameEndpoint,
  testFeed,
  valueAt,
  type Capability,
  type Parameter,
  type ParameterPath,
  type Part,
  type Pass,
  type PassCapability,
  type RigDevice,
  type Step,
} from '~~/core/rig'
import { equal, showDelay, showFrequency, showNumber } from '~~/core/units'
import type { PickedStrip } from '~/frame/view'

/** One block of the path from feed to microphone: what it adds, and the level behind it. */
export interface RibbonBlock {
  key: string
  title: string
  adds: string[]
  /** Gain of the path so far in dB, filters not counted; null when silent from here on. */
  level: number | null
  muted: boolean
  unsent: boolean
  edits: PickedStrip | null
  /** The crosspoint that it is, by its device and path. */
  point?: { device: string, path: ParameterPath }
}

const short = (name: string) => name.split(' (')[0]!
const partOf = (p: Parameter, value: unknown, { sampleRate }: Capability): Part =>
  p.kind.part(value, p.capability, sampleRate)
const isBand = (p: Parameter) => p.kind.kind === 'band'

/** A block in so few words that a path of ten fits on a line. */
function briefly(p: Parameter, value: unknown): string {
  const shown = p.kind.show(value, p.capability)
  if (p.kind.kind === 'pass') {
    const { on, frequency } = value as Pass
    const side = (p.capability as unknown as PassCapability).side
    return on ? `${side === 'high' ? 'from' : 'to'} ${showFrequency(frequency)}` : 'pass off'
  }
  return ['gain', 'mute', 'delay'].includes(p.kind.kind) ? shown : `${p.short.toLowerCase()} ${shown}`
}

/**
 * What a strip adds, in words: every block that is not as it is from the start; EQ bands that do something as a
 * count.
 */
function additions({ capability, settings }: RigDevice, parameters: readonly Parameter[]): string[] {
  const set = parameters.filter(p => !equal(valueAt(capability, settings, p.path), p.neutral))
  const words = set
    .filter(p => !isBand(p))
    .map(p => briefly(p, valueAt(capability, settings, p.path)))
    .filter(w => !w.endsWith(' off'))
  const bands = set.filter(
    p => isBand(p) && partOf(p, valueAt(capability, settings, p.path), capability).sections,
  ).length
  return bands ? [...words, `${bands} EQ ${bands === 1 ? 'band' : 'bands'}`] : words
}

/** The ribbon of the picked source through its output number `which`. */
export function useRibbon(which: Ref<number>) {
  const site = useSite()
  const view = useView()
  const listen = useListen()
  const sets = useSets()

  const changed = (device: string, test: (path: string) => boolean) =>
    (site.unsent[device] ?? []).some(d => test(d.path))

  /** The blocks of one step of the route, and the gain in dB of each; null where it is silent. */
  function stepBlocks({
    device,
    strip,
    point,
  }: Step): { block: Omit<RibbonBlock, 'level'>, gain: number | null }[] {
    const at = site.draftRig.devices[device]!
    const { capability, settings } = at
    const name = short(site.deviceName(device))
    const gainOf = (list: readonly Parameter[]) =>
      list.reduce<number | null>((sum, p) => {
        const { gain = 1 } = partOf(p, valueAt(capability, settings, p.path), capability)
        return sum === null || gain === 0 ? null : sum + 20 * Math.log10(Math.abs(gain))
      }, 0)
    const parameters = parametersIn(capability, strip)
    const adds = additions(at, parameters)
    const gain = gainOf(parameters)
    const ofStrip = {
      key: `${device}-${strip.replace('/', '-')}`,
      title: `${name} ${capability.strips
        .find(s => s.id === strip)!
        .name.toLowerCase()
        .replace('input', 'in')
        .replace('output', 'out')}`,
      adds: adds.length ? adds : ['adds nothing'],
      muted: gain === null,
      unsent: changed(device, path => path.startsWith(`/${strip}/`)),
      edits: { device, strip },
    }
    if (!point) return [{ block: ofStrip, gain }]
    const level = valueAt(capability, settings, point.path)
    const ofPoint = {
      key: `${device}-${point.point!.mixer}`,
      title: `${capability.mixers.find(m => m.id === point.point!.mixer)!.name} ${point.point!.input + 1} → `
        + `${point.point!.output + 1}`,
      adds: [level === null ? 'not connected' : point.kind.show(level, point.capability)],
      muted: level === null,
      unsent: changed(device, path => path === point.path),
      edits: null,
      point: { device, path: point.path },
    }
    return [
      { block: ofPoint, gain: gainOf([point]) },
      { block: ofStrip, gain },
    ]
  }

  return computed<RibbonBlock[]>(() => {
    const source = site.sourceOf(view.cell?.source)
    if (!source) return []
    const at
      = (listen.running && listen.front && sets.placeOf(listen.front)) || site.positionOf(view.cell?.position)
    const outputs = site.outputs(source.id)
    const to = outputs[which.value] ?? outputs[0]
    const from = site.feedFrom(testFeed)
    const route = (to && from && routeTo(site.draftRig, from, to)) ?? []
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
    for (const { block, gain } of route.flatMap(stepBlocks)) {
      level = level === null || gain === null ? null : level + gain
      blocks.push({ ...block, level })
    }
    const still = { muted: false, unsent: false, edits: null }
    if (!route.length && to) {
      level = null
      blocks.push({
        ...still,
        key: 'none',
        title: 'No cable leads here',
        adds: [`to ${site.deviceName(to.device)}`],
        level,
        muted: true,
      })
    }
    const driven = new Set(
      Object.entries(site.wiring.drives)
        .filter(([key, o]) => to && key.startsWith(`${source.id}:`) && sameEndpoint(o, to))
        .map(([key]) => key.split(':')[1]),
    )
    const cabinets = driven.size
    blocks.push({
      ...still,
      key: 'source',
      title: source.name,
      adds: [`${cabinets} ${cabinets === 1 ? 'cabinet' : 'cabinets'}`],
      level,
    })
    if (!at) return blocks
    const metres = Math.min(...source.elements.map(e => distance(e.place, at.place)))
    const heard = listen.levels.microphone.rms
    const flight = showDelay(metres / speedOfSound(site.plan.air))
    blocks.push({ ...still, key: 'air', title: 'Air', adds: [`${showNumber(metres, 1)} m, ${flight}`], level })
    const hears = Number.isFinite(heard) ? `hears ${showNumber(heard, 0)} dBFS` : 'not listening'
    blocks.push({
      ...still,
      key: 'mic',
      title: `Microphone, ${at.name}`,
      adds: [hears],
      level: Number.isFinite(heard) ? heard : null,
    })
    return blocks
  })
}
