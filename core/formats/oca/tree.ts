import { blockKinds, type BlockCapability, type Capability, type CapabilityOf, type Strip } from '../../rig'
import {
  ConnectorInput, ConnectorOutput, OcaAudioLevelSensor, OcaBlock, OcaCurrentSensor, OcaGainSensor,
  OcaIdentificationActuator, OcaImpedanceSensor, OcaMatrix, OcaMediaClock3, OcaTemperatureSensor, OcaVoltageSensor,
  FrontLock, OfferedFilterParametric, PresetLibrary, type OcaClass,
} from '../ocp1'
import { boundBlock, boundGraphic, type Bound } from './bound'
import { mappings, shapes } from './mappings'
import { stepsOf, type Mapping } from './mapping'

/** The block that holds all others (AES70-2018), and the first number that a device may give. */
export const rootBlock = 100
const firstOwn = 4096

/** One object of a device: its class, its place, and what it answers. */
export interface OcaObject {
  number: number
  oca: OcaClass
  role: string
  label: string
  /** Number of the block that holds it; 0: none. */
  owner: number
  members: number[]
  /** The parameter that it sets; null for what sets none. */
  bound: Bound | null
  /** Answers that never change, by method. */
  answers: Readonly<Record<string, readonly unknown[]>>
  /** Its ports: how many in and out. */
  ports: { in: number, out: number }
}

type End = { owner: number, index: number }
/** Where a signal goes inside a device: from an output port of an object to an input port of another. */
export interface SignalWay { source: End, sink: End }

/** What a device of AES70 is made of. */
export interface OcaTree {
  objects: ReadonlyMap<number, OcaObject>
  ways: readonly SignalWay[]
}

export const sensorClasses = {
  'level': OcaAudioLevelSensor,
  'gain-reduction': OcaGainSensor,
  'temperature': OcaTemperatureSensor,
  'voltage': OcaVoltageSensor,
  'current': OcaCurrentSensor,
  'impedance': OcaImpedanceSensor,
} as const satisfies Record<Capability['sensors'][number]['kind'], OcaClass>
export const connectorKinds = ['line', 'microphone', 'network', 'loudspeaker'] as const
export const deviceRoles = ['processor', 'amplifier', 'interface', 'loudspeaker', 'controller'] as const

/** Builds objects one after the other, each with the next number. */
class Builder {
  readonly objects = new Map<number, OcaObject>()
  readonly ways: SignalWay[] = []
  private next = firstOwn
  private readonly blocks = new Map<string, OcaObject>()

  constructor() {
    this.put({ number: rootBlock, oca: OcaBlock, role: 'root', owner: 0 })
  }

  private put(given: Partial<OcaObject> & Pick<OcaObject, 'number' | 'oca' | 'role' | 'owner'>): OcaObject {
    const made: OcaObject = { label: '', members: [], bound: null, answers: {}, ports: { in: 0, out: 0 }, ...given }
    this.objects.set(made.number, made)
    this.objects.get(made.owner)?.members.push(made.number)
    return made
  }

  add(owner: OcaObject, oca: OcaClass, role: string, more: Partial<OcaObject> = {}): OcaObject {
    return this.put({ number: this.next++, oca, role, owner: owner.number, ...more })
  }

  get root(): OcaObject { return this.objects.get(rootBlock)! }

  /** The block of an address (`inputs/3`), with those above it. */
  block(address: string): OcaObject {
    const known = this.blocks.get(address)
    if (known) return known
    const cut = address.lastIndexOf('/')
    const owner = cut < 0 ? this.root : this.block(address.slice(0, cut))
    const made = this.add(owner, OcaBlock, address.slice(cut + 1))
    this.blocks.set(address, made)
    return made
  }

  /** Has an address lead to an object that is no block. */
  alias(address: string, object: OcaObject) {
    this.blocks.set(address, object)
  }

  way(source: OcaObject, sink: OcaObject, from = 1, to = 1) {
    source.ports.out = Math.max(source.ports.out, from)
    sink.ports.in = Math.max(sink.ports.in, to)
    this.ways.push({ source: { owner: source.number, index: from }, sink: { owner: sink.number, index: to } })
  }
}

const all = (made: Mapping) => new Set([...made.properties, ...(made.also ?? [])])

/** The graphic EQ as filters at fixed places. */
function addGraphic(builder: Builder, owner: OcaObject, path: string, c: CapabilityOf<'graphic'>) {
  const group = builder.add(owner, OcaBlock, c.id)
  const shelf = (k: number) => {
    if (k === 0) return shapes['low-shelf']
    return k === c.frequencies.length - 1 ? shapes['high-shelf'] : shapes.peaking
  }
  c.frequencies.forEach((frequency, k) => {
    const shape = c.shelves ? shelf(k) : shapes.peaking
    builder.add(group, OfferedFilterParametric, String(k), {
      bound: boundGraphic(path, OfferedFilterParametric, c, k),
      answers: {
        GetFrequency: [frequency, frequency, frequency],
        GetWidthParameter: [c.q, c.q, c.q],
        GetShape: [shape],
        GetSteps: stepsOf(OfferedFilterParametric, { InbandGain: c.gain.step }),
        GetShapes: [[shape]],
        GetWidthLaw: [0],
      },
    })
  })
}

function addBlock(builder: Builder, owner: OcaObject, strip: Strip, capability: BlockCapability, rate: number) {
  const path = `/${strip.id}/${capability.id}`
  if (capability.kind === 'graphic')
    return addGraphic(builder, owner, path, capability as CapabilityOf<'graphic'>)
  if (!blockKinds.has(capability.kind)) return
  const made = mappings[capability.kind as keyof typeof mappings]
  const { count } = capability
  const group = count ? builder.add(owner, OcaBlock, capability.id) : owner
  for (let n = 0; n < (count ?? 1); n++) {
    const own = count ? `${path}/${n}` : path
    const object = builder.add(group, made.oca, count ? String(n) : capability.id, {
      bound: boundBlock(own, made.oca, made, capability, all(made)),
      answers: { ...made.facts(capability), ...(capability.kind === 'fir' && { GetSampleRate: [rate, rate, rate] }) },
    })
    if (capability.kind !== 'select') continue
    const { options } = capability as CapabilityOf<'select'>
    options.forEach(({ port }, k) => builder.way(builder.block(`connectors/in-${port}`), object, 1, k + 1))
  }
}

function addConnectors(builder: Builder, { inputs, outputs }: Capability) {
  const connectors = builder.block('connectors')
  const add = (oca: OcaClass, role: string, port: Capability['inputs'][number]) => {
    const answers = { GetConnector: [connectorKinds.indexOf(port.kind), port.fullScale ?? 0] }
    return builder.add(connectors, oca, role, { label: port.name, answers })
  }
  const ins = inputs.map((port, n) => add(ConnectorInput, `in-${n}`, port))
  const outs = outputs.map((port, n) => add(ConnectorOutput, `out-${n}`, port))
  return { ins, outs }
}

function addMixers(builder: Builder, { mixers }: Capability) {
  for (const { id, name, from, to, crosspoint } of mixers) {
    const block = builder.block(id)
    block.label = name
    const made = mappings.crosspoint
    const points = from.map((_, y) => to.map((_, x) => builder.add(block, made.oca, `${y}-${x}`, {
      bound: boundBlock(`/${id}/${y}/${x}`, made.oca, made, crosspoint, all(made)),
      answers: made.facts(crosspoint),
    }).number))
    // rows are what comes in, columns what goes out
    const matrix = builder.add(block, OcaMatrix, 'matrix', {
      answers: {
        GetSize: [to.length, from.length, to.length, to.length, from.length, from.length],
        GetMembers: [points],
        GetPortsPerRow: [1],
        GetPortsPerColumn: [1],
      },
    })
    from.forEach((strip, y) => builder.way(builder.block(strip), matrix, 1, y + 1))
    to.forEach((strip, x) => builder.way(matrix, builder.block(strip), x + 1, 1))
  }
}

function addSensors(builder: Builder, { sensors }: Capability) {
  for (const { id, name, kind, strip } of sensors) {
    const role = strip && id.startsWith(`${strip}/`) ? id.slice(strip.length + 1) : id.replaceAll('/', '-')
    builder.add(strip ? builder.block(strip) : builder.root, sensorClasses[kind], role, { label: name })
  }
}

/** The places for presets, as volumes of a library of parameter sets. */
function addLibrary(builder: Builder, { slots }: Capability) {
  builder.add(builder.root, PresetLibrary, 'presets', { answers: { GetVolumeCount: [slots], GetAccess: [3] } })
}
/** What shows the device, and what keeps hands off its front. */
function addFront(builder: Builder) {
  builder.add(builder.root, OcaIdentificationActuator, 'identify')
  builder.add(builder.root, FrontLock, 'front')
}

function addClock(builder: Builder, { sampleRate }: Capability) {
  const rate = { nominalRate: sampleRate, pullRange: 0, accuracy: 0, jitterMax: 0 }
  builder.add(builder.root, OcaMediaClock3, 'clock', {
    answers: { GetCurrentRate: [rate, 0], GetSupportedRates: [[[0, [rate]]]] },
  })
}

/**
 * What a device of this capability is made of in AES70: a block for each strip with its objects in signal order,
 * connectors, mixers as matrices, sensors, a clock, and the ways between them.
 * @param capability what the device is able to do
 * @returns objects by their numbers (the root block first) and the ways of signals
 */
export function treeOf(capability: Capability): OcaTree {
  const builder = new Builder()
  builder.root.answers = { GetLatency: [capability.latency] }
  addClock(builder, capability)
  addLibrary(builder, capability)
  // the way of a select begins at a connector: they come first
  const { ins, outs } = addConnectors(builder, capability)
  ins.forEach((object, n) => builder.alias(`connectors/in-${n}`, object))
  for (const strip of capability.strips) {
    const block = builder.block(strip.id)
    block.label = strip.name
    for (const each of strip.blocks) addBlock(builder, block, strip, each, capability.sampleRate)
  }
  addMixers(builder, capability)
  addSensors(builder, capability)
  for (const strip of capability.strips) {
    const block = builder.block(strip.id)
    const selects = strip.blocks.some(b => b.kind === 'select')
    if ('port' in strip.from && !selects) builder.way(ins[strip.from.port]!, block)
    if ('strip' in strip.from) builder.way(builder.block(strip.from.strip), block)
  }
  addFront(builder)
  capability.outputs.forEach(({ strip }, n) => strip !== undefined && builder.way(builder.block(strip), outs[n]!))
  return { objects: builder.objects, ways: builder.ways }
}
