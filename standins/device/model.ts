import { propertyOf, treeOf, type Cells, type OcaObject, type OcaTree } from '../../core/formats/oca'
import { equal } from '../../core/units'
import {
  compact, differences, holdParameter, valueAt, withValue, type Capability, type Settings,
} from '../../core/rig'

/** Told of a property that changed, before whoever changed it has the answer. */
export type Changed = (object: number, property: string, value: unknown) => void

/**
 * What a device is at work: the cells of its objects, and the settings that follow from them. A change is kept in the
 * memory first, and only then holds.
 */
export class DeviceModel {
  readonly tree: OcaTree
  private readonly cells = new Map<number, Cells>()
  private readonly holders = new Map<string, OcaObject[]>()
  private readonly listeners = new Set<Changed>()
  /** What changed since several changes began that are kept together; null: each for itself. */
  private together: { settings: Settings, cells: Map<number, Cells>, news: Parameters<Changed>[] } | null = null

  constructor(
    readonly capability: Capability, private now: Settings, private readonly save: (settings: Settings) => void,
  ) {
    this.tree = treeOf(capability)
    for (const object of this.tree.objects.values()) {
      if (!object.bound) continue
      const { path, rest, spread } = object.bound
      this.holders.set(path, [...(this.holders.get(path) ?? []), object])
      this.cells.set(object.number, { ...rest, ...spread(valueAt(capability, now, path)) })
    }
  }

  get settings(): Settings { return compact(this.capability, this.now) }

  listen(listener: Changed): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  cellsOf = ({ number }: OcaObject): Cells => this.cells.get(number) ?? {}

  /** Keeps a value in the memory, then in the cells of all objects that hold it, and tells what is new. */
  private take(path: string, value: unknown, given: ReadonlyMap<number, Cells> = new Map()) {
    const settings = withValue(this.now, path, value)
    if (!this.together) this.save(compact(this.capability, settings))
    this.now = settings
    for (const object of this.holders.get(path)!) {
      const old = this.cellsOf(object)
      const next: Cells = { ...old, ...given.get(object.number), ...object.bound!.spread(value) }
      this.cells.set(object.number, next)
      if (this.together && !this.together.cells.has(object.number)) this.together.cells.set(object.number, old)
      for (const [name, cell] of Object.entries(next)) {
        if (!equal(old[name], cell)) this.tell(object.number, name, cell)
      }
    }
  }

  private tell(...news: Parameters<Changed>) {
    if (this.together) this.together.news.push(news)
    else for (const listener of this.listeners) listener(...news)
  }

  /**
   * Does several changes that are kept in the memory all at once, and told then. What the memory throws is thrown, and
   * nothing has changed.
   */
  atOnce(act: () => void) {
    const before: NonNullable<typeof this.together> = { settings: this.now, cells: new Map(), news: [] }
    this.together = before
    act()
    this.together = null
    if (this.now === before.settings) return
    try {
      this.save(compact(this.capability, this.now))
    }
    catch (error) {
      this.now = before.settings
      for (const [number, cells] of before.cells) this.cells.set(number, cells)
      throw error
    }
    for (const news of before.news) this.tell(...news)
  }

  /** Takes over settings whole, kept at once: what is not in them becomes neutral. Throws what the memory throws. */
  become(settings: Settings) {
    const isWithin = this.together !== null
    const all = () => {
      for (const { path, to } of differences(this.capability, this.now, settings)) this.take(path, to)
    }
    if (isWithin) all()
    else this.atOnce(all)
  }

  /** Somebody turns it at the front: gives what it holds then. Throws RangeError with the reason why not. */
  turn(path: string, wish: unknown): unknown {
    const held = holdParameter(this.capability, path, wish)
    if (!held.ok) throw new RangeError(held.why.code)
    this.take(path, held.value)
    return held.value
  }

  /** Sets a cell of an object. False: the value is outside what it allows. Throws what the memory throws. */
  set(object: OcaObject, name: string, value: unknown): boolean {
    const { bound } = object
    if (!bound) return false
    const next: Cells = { ...this.cellsOf(object), [name]: value }
    if (!inLimits(bound.limits(next)[name], value)) return false
    const now = valueAt(this.capability, this.now, bound.path)
    for (const cells of [next, ...this.fitting(object, next)]) {
      const held = holdParameter(this.capability, bound.path, bound.join(cells, now))
      if (!held.ok) continue
      this.take(bound.path, held.value, new Map([[object.number, cells]]))
      return true
    }
    return false
  }

  /** A family that does not have the order of now takes the nearest that it has. */
  private fitting({ bound }: OcaObject, cells: Cells): Cells[] {
    const order = cells.Order
    if (typeof order !== 'number') return []
    const [least, most] = bound!.limits(cells).Order!
    const all = Array.from({ length: most - least + 1 }, (_, n) => least + n)
    return all
      .sort((a, b) => Math.abs(a - order) - Math.abs(b - order))
      .map(Order => ({ ...cells, Order }))
  }

  /** The value of a property with its limits, where it is one that changes. */
  get(object: OcaObject, name: string): readonly unknown[] | null {
    const { bound } = object
    const cells = this.cellsOf(object)
    if (!bound) return null
    const limits = bound.limits(cells)[name]
    if (name === 'Length') return [(cells.Coefficients as unknown[]).length, ...limits!]
    if (!(name in cells)) return null
    if (!propertyOf(object.oca, name).isLimited) return [cells[name]]
    return [cells[name], ...(limits ?? [cells[name], cells[name]])]
  }
}

/** Limits are what a device tells in single precision: they are exact there. */
function inLimits(limits: readonly [number, number] | undefined, value: unknown): boolean {
  const number = typeof value === 'object' && value !== null ? (value as { value?: unknown }).value : value
  if (typeof number !== 'number') return true
  if (!Number.isFinite(number)) return false
  return !limits || (Math.fround(number) >= Math.fround(limits[0]) && Math.fround(number) <= Math.fround(limits[1]))
}
