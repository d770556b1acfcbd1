import { defineStore } from 'pinia'
import { magnitude, standardGrid, type Curve } from '~~/core/dsp'
import { asPoints, nextOrder, targetLevel, type Source, type Target, type TargetPoint } from '~~/core/documents'
import { readCurveText } from '~~/core/formats/curveText'
import { smooth } from '~~/core/measure'
import { targets as library, type TargetId } from '~~/core/tune'
import type { Decibels, Hertz } from '~~/core/units'
import { useSite } from './site'
import { useView } from './view'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

/** What is aimed for now. */
export interface Aim {
  id: string
  name: string
  level: (f: Hertz) => Decibels
  tolerance: Decibels
  range: readonly [Hertz, Hertz]
  /** Where its 0 dB lies by hand; null: fitted. */
  at: Decibels | null
}
const usual = { tolerance: 3, range: [200, 4000] as [Hertz, Hertz], level: null }
/** What is drawn by points: what is heard. */
const heard = [...standardGrid.keys()].filter(k => standardGrid[k]! >= 20 && standardGrid[k]! <= 20_000)
const heardAt = heard.map(k => standardGrid[k]!)
const libraryIds = Object.keys(library) as TargetId[]
/** Deviation that points of a drawn curve may have. */
const fine = 0.25

/** What the picked source, or the whole site, aims for: of the library, or the site's own. */
export const useTargets = defineStore('targets', () => {
  const site = useSite()
  const view = useView()
  const notices = useNotices()
  /** Its points are knobs on the plate. */
  const editing = ref(false)
  const source = computed(() => site.sourceOf(view.cell?.source))
  const isOwnOfSource = computed(() => source.value?.target !== undefined)
  const id = computed(() => source.value?.target ?? site.info?.target ?? 'flat')
  const own = computed(() => site.targets.find(t => t.id === id.value))
  function aimOf(id: string): Aim {
    const t = site.targets.find(x => x.id === id)
    if (t) {
      const level = (f: Hertz) => targetLevel(t.points, f)
      return { id: t.id, name: t.name, level, tolerance: t.tolerance, range: t.range, at: t.level }
    }
    const known = libraryIds.find(k => k === id) ?? 'flat'
    const { name, level } = library[known]
    return { id: known, name: phrase(name), level, tolerance: usual.tolerance, range: usual.range, at: null }
  }
  const now = computed(() => aimOf(id.value))
  const choices = computed(() => [
    ...libraryIds.map(value => ({ value: value as string, label: phrase(library[value].name) })),
    ...site.targets.map(t => ({ value: t.id, label: phrase('document.thisSites', { name: t.name }) })),
  ])
  const place = (forSource: boolean) =>
    (forSource && source.value ? `source/${source.value.id}` : 'site')
  const aim = (value: string | undefined, forSource: boolean) =>
    site.change([{ document: place(forSource), path: '/target', new: value }], { live: false })

  /** A target of the site's own, aimed for from now on. */
  async function add(name: string, points: readonly TargetPoint[]): Promise<boolean> {
    let n = site.targets.length + 1
    while (site.targets.some(t => t.id === `target-${n}`)) n++
    const made: Target
      = { id: `target-${n}`, name, order: nextOrder(site.targets), points: [...points], ...usual }
    const kept = await site.change([
      { document: `target/${made.id}`, path: '', new: made },
      { document: place(isOwnOfSource.value), path: '/target', new: made.id },
    ], { live: false })
    editing.value = kept
    return kept
  }
  const levelled = (points: TargetPoint[]) => {
    const middle = targetLevel(points, 1000)
    return points.map(p => ({ ...p, level: Number((p.level - middle).toFixed(2)) }))
  }
  return {
    now, own, choices, editing, isOwnOfSource,
    /** What any source aims for, in dB over frequency. */
    levelFor: ({ target }: Source) => aimOf(target ?? site.info?.target ?? 'flat').level,
    choose: (value: string) => aim(value, isOwnOfSource.value),
    /** Whether the picked source goes its own way. */
    forSource: (is: boolean) => aim(is ? id.value : undefined, true),
    fromShape: () => add(`${now.value.name.split(/[,:]/)[0]}, own`,
      asPoints(heardAt, heardAt.map(now.value.level), fine)),
    async fromFile(file: File) {
      try {
        const { frequencies, level } = readCurveText(await file.text())
        await add(file.name.replace(/\.\w+$/, ''), asPoints(frequencies, level, fine))
      }
      catch (error) { notices.fail(error) }
    },
    fromTake(name: string, curve: Curve) {
      const levels = magnitude(smooth(curve, 3))
      return add(`as ${name}`, levelled(asPoints(heardAt, heard.map(k => levels[k]!), 1)))
    },
    set: (change: Partial<Target>, gesture?: string) => own.value && site.change(
      Object.entries(change).map(([field, value]) => ({
        document: `target/${own.value!.id}`, path: `/${field}`, new: value,
      })),
      { live: false, ...(gesture ? { gesture } : {}) },
    ),
    async remove() {
      const gone = own.value
      if (!gone) return
      const users = site.sources.filter(s => s.target === gone.id).map(s => `source/${s.id}`)
      const all = site.info?.target === gone.id ? [...users, 'site'] : users
      await site.change([
        ...all.map(document => ({ document, path: '/target', new: undefined })),
        { document: `target/${gone.id}`, path: '', new: undefined },
      ], { live: false })
    },
  }
})
