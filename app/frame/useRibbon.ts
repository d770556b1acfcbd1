import { distanceLoss, nearest, speedOfSound } from '~~/core/acoustics'
import { bandDriven } from '~~/core/documents'
import {
  gainStructure,
  levelAt,
  parametersIn,
  routeTo,
  is,
  sameEndpoint,
  soundLevel,
  testFeed,
  valueAt,
  voltsOf,
  type Capability,
  type SignalPoint,
  type PointLevel,
  type Parameter,
  type ParameterPath,
  type Part,
  type Pass,
  type RigDevice,
  type Stage,
} from '~~/core/rig'
import { equal, showDelay, showFrequency, showNumber } from '~~/core/units'
import { useTemporary, type ForNow } from '~/document/temporary'
import { useView, type PickedStrip } from '~/document/view'
import { useSite } from '~/document/site'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import { useCalibration } from '~/sound/useCalibration'
import { phrase } from '~/parts/phrase'

/** One block of the path from feed to microphone: what it adds, and the level behind it. */
export interface RibbonBlock {
  key: string
  title: string
  adds: string[]
  /** Level behind it, filters not counted; null when silent from here on. */
  level: PointLevel | null
  muted: boolean
  /** Who silenced it for a while, and for what; null where it is silent for good, or not. */
  forNow: ForNow | null
  /** No device drives the source: nothing is known of its level. */
  isUndriven?: boolean
  unsent: boolean
  edits: PickedStrip | null
  /** The crosspoint that it is, by its device and path. */
  point?: { device: string, path: ParameterPath }
}

/** A strip in few letters: 'in 3' of Input 3; what a device calls otherwise stays. */
function shortStrip(name: string): string {
  const [, side, number] = /^(Input|Output) (\d+)$/.exec(name) ?? []
  if (!side) return name
  return phrase(side === 'Input' ? 'frame.inNumber' : 'frame.outNumber', { number: number! })
}
const short = (name: string) => name.split(' (')[0]!
const partOf = (p: Parameter, value: unknown, { sampleRate }: Capability): Part =>
  p.kind.part(value, p.capability, sampleRate)
const decibels = (value: number | null, unit: PointLevel['unit']): PointLevel | null =>
  value === null ? null : { value, unit }
const isBand = (p: Parameter) => is(p, 'band')
/** Whether a block that can be switched is on; null of one that cannot. */
const isOn = (value: unknown) => (typeof value === 'object' && value && 'on' in value ? value.on === true : null)

/** A block in so few words that a path of ten fits on a line; null for a filter that is off. */
function briefly(p: Parameter, value: unknown): string | null {
  const shown = p.kind.show(value, p.capability)
  if (is(p, 'pass')) {
    const { on, frequency } = value as Pass
    if (!on) return null
    const corner = { frequency: showFrequency(frequency) }
    return p.capability.side === 'high' ? phrase('frame.fromCorner', corner) : phrase('frame.toCorner', corner)
  }
  if (isOn(value) === false) return null
  const { atHand } = p.kind
  return atHand && !atHand.named ? shown : `${p.short.toLowerCase()} ${shown}`
}

/**
 * What a strip adds, in words: every block that is not as it is from the start; EQ bands that do something as a
 * count.
 */
function additions({ capability, settings }: RigDevice, parameters: readonly Parameter[]): string[] {
  const set = parameters.filter(p => !equal(valueAt(capability, settings, p.path), p.neutral))
  const words = set
    .filter(p => !isBand(p))
    .flatMap(p => briefly(p, valueAt(capability, settings, p.path)) ?? [])
  const bands = set.filter(
    p => isBand(p) && partOf(p, valueAt(capability, settings, p.path), capability).sections,
  ).length
  return bands ? [...words, phrase('frame.eqBands', { bands })] : words
}

/** The feed that is looked along: the one chosen, as long as the site has it. */
export const ribbonFeed = (chosen: string, feeds: Readonly<Record<string, unknown>>): string =>
  (chosen in feeds ? chosen : testFeed)

/** The ribbon of the picked source through its output number `which`. */
export function useRibbon(which: Ref<number>) {
  const site = useSite()
  const view = useView()
  const listen = useListen()
  const sets = useSets()
  const calibration = useCalibration()
  const temporary = useTemporary()

  /** The direct sound of one cabinet at a distance: 6 dB less each time that it doubles. */
  const farther = (level: PointLevel | null, metres: number): PointLevel | null =>
    level?.unit === 'dB SPL' ? { ...level, value: level.value - distanceLoss(metres) } : level

  const changed = (device: string, test: (path: string) => boolean) =>
    (site.unsent[device] ?? []).some(d => test(d.path))

  const passing = (device: string, silencing: readonly { path: string }[]) =>
    silencing.map(p => temporary.forNow(device, p.path)).find(f => f !== null) ?? null

  /** The blocks of one step of the route with the levels behind them. */
  function stageBlocks({ step: { device, strip, point }, afterPoint, afterStrip, port }: Stage): RibbonBlock[] {
    const at = site.desiredRig.devices[device]!
    const { capability, settings } = at
    const name = short(site.deviceName(device))
    const parameters = parametersIn(capability, strip)
    const adds = additions(at, parameters)
    const isSilent = (p: Parameter) => partOf(p, valueAt(capability, settings, p.path), capability).gain === 0
    const ofStrip: RibbonBlock = {
      key: `${device}-${strip.replace('/', '-')}`,
      title: `${name} ${shortStrip(capability.strips.find(s => s.id === strip)!.name)}`,
      adds: adds.length ? adds : [phrase('frame.noProcessing')],
      level: levelAt(afterStrip, port),
      muted: parameters.some(isSilent),
      forNow: passing(device, parameters.filter(isSilent)),
      unsent: changed(device, path => path.startsWith(`/${strip}/`)),
      edits: { device, strip },
    }
    if (!point) return [ofStrip]
    const level = valueAt(capability, settings, point.path)
    return [{
      key: `${device}-${point.point!.mixer}`,
      title: `${capability.mixers.find(m => m.id === point.point!.mixer)!.name} ${point.point!.input + 1} → `
        + `${point.point!.output + 1}`,
      adds: [level === null ? phrase('frame.notConnected') : point.kind.show(level, point.capability)],
      level: levelAt(afterPoint),
      muted: level === null,
      forNow: level === null ? passing(device, [point]) : null,
      unsent: changed(device, path => path === point.path),
      edits: null,
      point: { device, path: point.path },
    }, ofStrip]
  }

  /** The way as it is now, from feed to microphone. */
  function blocksNow(): RibbonBlock[] {
    const source = site.sourceOf(view.cell?.source)
    if (!source) return []
    const at
      = (listen.running && listen.front && sets.placeOf(listen.front)) || site.positionOf(view.cell?.position)
    const outputs = site.outputs(source.id)
    const to = outputs[which.value] ?? outputs[0]
    const feed = ribbonFeed(view.feed, site.wiring.feeds)
    const ownLevel = listen.noise ? `${listen.noiseLevel} dBFS` : phrase('frame.silent')
    const isOwn = feed === testFeed
    const from = site.feedFrom(feed)
    const route = (to && from && routeTo(site.desiredRig, from, to)) ?? []
    // what a console sends is not known: its way is looked along at full scale
    const fullScale = site.wiring.feeds[feed]?.fullScale ?? null
    let point: SignalPoint = { level: isOwn ? listen.noiseLevel : 0, fullScale }
    const blocks: RibbonBlock[] = [
      {
        key: 'feed',
        title: isOwn ? phrase('frame.kovrinsNoise') : site.wiring.feeds[feed]!.name,
        adds: [isOwn ? ownLevel : phrase('frame.tracedAtDbfs')],
        level: decibels(point.level, 'dBFS'),
        muted: false,
        forNow: null,
        unsent: false,
        edits: null,
      },
    ]
    const stages = gainStructure(site.desiredRig, route, point)
    blocks.push(...stages.flatMap(stageBlocks))
    point = stages.at(-1)?.out ?? point
    const still = { muted: false, forNow: null, unsent: false, edits: null }
    if (!route.length && to) {
      point = { level: null, fullScale: null }
      blocks.push({
        ...still,
        key: 'none',
        title: phrase('frame.noCableLeadsHere'),
        adds: [phrase('frame.toDevice', { device: site.deviceName(to.device) })],
        level: null,
        muted: true,
      })
    }
    const driven = new Set(
      Object.entries(site.wiring.drives)
        .filter(([key, o]) => to && key.startsWith(`${source.id}:`) && sameEndpoint(o, to))
        .map(([key]) => key.split(':')[1]),
    )
    const isUndriven = !to
    const cabinets = isUndriven ? source.elements.length : driven.size
    const volts = voltsOf(point)
    const sensitivity = to && bandDriven(site.documents, source.id, to)?.band.sensitivity
    const level = volts !== null && sensitivity !== undefined
      ? decibels(soundLevel(volts, sensitivity), 'dB SPL')
      : decibels(point.level, 'dB')
    blocks.push({
      ...still,
      key: 'source',
      title: source.name,
      adds: [phrase('frame.cabinets', { cabinets })],
      level: isUndriven ? null : level,
      isUndriven,
    })
    if (!at) return blocks
    const metres = nearest(at.place, source.elements.map(e => e.place))
    const heard = listen.levels.microphone.rms
    const flight = showDelay(metres / speedOfSound(site.plan.air))
    const way = [`${showNumber(metres, 1)} m, ${flight}`]
    blocks.push({
      ...still,
      key: 'air',
      title: phrase('common.air'),
      adds: way,
      level: farther(level, metres),
      isUndriven,
    })
    const unit = calibration.value ? 'dB SPL' : 'dBFS'
    const hears = Number.isFinite(heard)
      ? phrase('frame.levelHeard', { level: showNumber(heard + calibration.value, 0), unit })
      : phrase('common.notListening')
    blocks.push({
      ...still,
      key: 'mic',
      title: phrase('frame.microphone', { name: at.name }),
      adds: [hears],
      level: null,
    })
    return blocks
  }
  /** A block that says the same stays the same, and so does the path: with every edit most do. */
  return computed<RibbonBlock[]>((before = []) => {
    const blocks = blocksNow().map((next, n) => (equal(before[n], next) ? before[n]! : next))
    return blocks.length === before.length && blocks.every((b, n) => b === before[n]) ? before : blocks
  })
}
