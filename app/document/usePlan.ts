import type { Area, DesiredEdit, Element, Plan, Position, Source } from '~~/core/documents'
import { driveKey, drivesOf, type Endpoint } from '~~/core/rig'
import { useSite } from './site'

/**
 * Changes of the plan as the areas make them, each a few small paths. All resolve with false when they were
 * refused.
 */
export function usePlan() {
  const site = useSite()
  const make = (...wishes: DesiredEdit[]) => site.change(wishes, { live: false })
  const fields = (document: string, change: object): DesiredEdit[] =>
    Object.entries(change).map(([field, value]) => ({ document, path: `/${field}`, new: value }))
  const drive = (source: string, element: number, band: string, output: Endpoint | undefined): DesiredEdit => ({
    document: 'wiring',
    path: `/drives/${driveKey({ source, element, band })}`,
    new: output,
  })

  /**
   * What drives the cabinets of a source, when there are so many of a kind: new ones like the first, none for
   * those that are gone.
   */
  function drivesFor(source: Source, elements: readonly Element[]): DesiredEdit[] {
    const now = drivesOf(site.wiring, source.id)
    const wanted = elements.flatMap((e, n) =>
      (site.sheetOf(e.sheet)?.bands ?? []).flatMap((band) => {
        const same = now.find(d => d.element === n && d.band === band.id)
        const like = same ?? now.find(d => d.element === 0 && d.band === band.id) ?? now.find(d => d.element === 0)
        return like ? [{ element: n, band: band.id, output: like.output }] : []
      }),
    )
    const gone = now.filter(d => !wanted.some(w => w.element === d.element && w.band === d.band))
    return [
      ...gone.map(d => drive(source.id, d.element, d.band, undefined)),
      ...wanted
        .filter(w => !now.some(d => d.element === w.element && d.band === w.band))
        .map(w => drive(source.id, w.element, w.band, w.output)),
    ]
  }

  return {
    set: (path: string, value: unknown) => make({ document: 'plan', path, new: value }),
    setRoom: (change: Partial<Plan['room']>) =>
      make(
        ...Object.entries(change).map(([field, value]) => ({
          document: 'plan',
          path: `/room/${field}`,
          new: value,
        })),
      ),
    setArea: (id: string, change: Partial<Area>) => make(...fields(`area/${id}`, change)),
    setPosition: (id: string, change: Partial<Position>) => make(...fields(`position/${id}`, change)),
    setSource: (id: string, change: Partial<Omit<Source, 'elements'>>) => make(...fields(`source/${id}`, change)),
    /** Cabinets of a source anew, with what drives them. */
    setElements(source: Source, elements: Element[]) {
      const wiring = drivesFor(source, elements)
      const cabinets: DesiredEdit = { document: `source/${source.id}`, path: '/elements', new: elements }
      // what is driven must be there: fewer cabinets lose their drives first, more get theirs afterwards
      return make(...wiring.filter(w => w.new === undefined), cabinets, ...wiring.filter(w => w.new !== undefined))
    },
    moveElement: (source: string, element: number, place: Element['place']) =>
      make({ document: `source/${source}`, path: `/elements/${element}/place`, new: place }),
    /** The output that drives one band of all cabinets of a source. */
    setDrive: (source: Source, band: string, output: Endpoint) =>
      make(...source.elements.map((_, n) => drive(source.id, n, band, output))),
    /** A source, driven by an output where one is given: two bands of a loudspeaker never get the same. */
    addSource: (source: Source, output: Endpoint | undefined) =>
      make(
        { document: `source/${source.id}`, path: '', new: source },
        ...(output ? source.elements : []).flatMap((e, n) => {
          const bands = site.sheetOf(e.sheet)?.bands ?? []
          return bands.length === 1 ? [drive(source.id, n, bands[0]!.id, output)] : []
        }),
      ),
    removeSource: (source: Source) =>
      make(...drivesOf(site.wiring, source.id).map(d => drive(source.id, d.element, d.band, undefined)), {
        document: `source/${source.id}`,
        path: '',
        new: undefined,
      }),
    addPosition: (position: Position) => make({ document: `position/${position.id}`, path: '', new: position }),
    removePosition: (id: string) => make({ document: `position/${id}`, path: '', new: undefined }),
    addArea: (area: Area) => make({ document: `area/${area.id}`, path: '', new: area }),
    removeArea: (id: string) => make({ document: `area/${id}`, path: '', new: undefined }),
  }
}
