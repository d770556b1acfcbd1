import { defineStore } from 'pinia'
import { useLocalStorage, usePreferredColorScheme, useSessionStorage } from '@vueuse/core'
import { testFeed } from '~~/core/rig'
import type { LengthUnit } from '~~/core/units'
import { renamed } from './api'
import { useSite } from './site'
import { phrase } from '~/parts/phrase'

/** The part of the job that is looked at, by its folder in app/areas. */
export type AreaId = 'site' | 'rig' | 'listen' | 'shape' | 'align' | 'run' | 'watch'

/** A strip of a device that the inspector edits. */
export interface PickedStrip {
  device: string
  strip: string
}

/** A cell of the ledger. */
interface Cell {
  source: string
  position: string
}

/** What this user looks at; remembered by this browser. */
export const useView = defineStore('view', () => {
  /** As chosen here; until then as the system has it. */
  const chosenTheme = useLocalStorage<'day' | 'night' | null>('kovrin-theme', null, {
    serializer: { read: t => (t === 'day' || t === 'night' ? t : null), write: t => t ?? '' },
  })
  const preferred = usePreferredColorScheme()
  const theme = computed(() => chosenTheme.value ?? (preferred.value === 'light' ? 'day' : 'night'))
  const smoothing = useLocalStorage('kovrin-smoothing', 12)
  const hidden = useLocalStorage<string[]>('kovrin-hidden-takes', [])
  /** Cells (`source/position`) whose newest takes are laid over the picked one's. */
  const overlaid = ref<string[]>([])
  /** A plain pick in the ledger lays over too: for fingers. */
  const layingOver = ref(false)
  /** Takes drawn upside down. */
  const inverted = useLocalStorage<string[]>('kovrin-inverted-takes', [])
  const lengths = useLocalStorage<LengthUnit>('kovrin-lengths', 'm')
  const snapToSeats = useLocalStorage('kovrin-snap-seats', true)
  const who = useLocalStorage('kovrin-who', phrase('document.technician'))
  watch(who, renamed, { flush: 'sync' })
  /** What is picked belongs to this tab, and to each site by itself. */
  const cells = useSessionStorage<Record<string, Cell>>('kovrin-cells', {})
  const site = useSite()
  const cell = computed<Cell | null>({
    get: () => (site.id !== null && cells.value[site.id]) || null,
    set: (picked) => {
      if (site.id === null) return
      const { [site.id]: _, ...rest } = cells.value
      cells.value = picked ? { ...rest, [site.id]: picked } : rest
    },
  })
  const area = ref<AreaId>('listen')
  /** What stands on the plate of each area; null: what it has by itself. */
  const plates = ref<Partial<Record<AreaId, string | null>>>({})
  const plate = computed({
    get: () => plates.value[area.value] ?? null,
    set: (next: string | null) => {
      plates.value = { ...plates.value, [area.value]: next }
    },
  })
  const strip = ref<PickedStrip | null>(null)
  /** Which of the picked source's outputs the ribbon follows. */
  const way = ref(0)
  /** The feed that the ribbon is looked along; Kovrin's own unless another is chosen. */
  const feed = ref(testFeed)
  /** Source, position or area picked in the plan; 'room' for its walls. */
  const thing = ref<string | null>(null)
  /** The loudspeaker sheet that is edited. */
  const sheet = ref('')
  /** The device whose page is looked at. */
  const device = ref('')
  /** The source that is aligned to another. */
  const aligned = ref<string | null>(null)
  const palette = ref(false)
  const keySheet = ref(false)
  /** The page of the guide that is open. */
  const guide = ref<string | null>(null)
  const drawer = ref<'ledger' | 'inspector' | null>(null)
  watch(theme, t => document.documentElement.setAttribute('data-theme', t), { immediate: true })
  return {
    theme,
    overlaid,
    layingOver,
    inverted,
    lengths,
    snapToSeats,
    smoothing,
    hidden,
    who,
    cell,
    area,
    strip,
    way,
    feed,
    thing,
    plate,
    sheet,
    device,
    aligned,
    palette,
    keySheet,
    guide,
    drawer,
    /** Goes to an area, and to what is to stand on its plate. */
    go(to: AreaId, on?: string | null) {
      area.value = to
      if (on !== undefined) plate.value = on
    },
    openSheet(id: string) {
      sheet.value = id
      area.value = 'shape'
      plate.value = 'sheets'
    },
    openDevice(id: string) {
      device.value = id
      area.value = 'rig'
      plate.value = 'device'
    },
    toggleTake: (id: string) => {
      hidden.value = hidden.value.includes(id) ? hidden.value.filter(h => h !== id) : [...hidden.value, id]
    },
    toggleOverlay: (cell: string) => {
      overlaid.value = overlaid.value.includes(cell)
        ? overlaid.value.filter(c => c !== cell)
        : [...overlaid.value, cell]
    },
    toggleInverted: (id: string) => {
      inverted.value = inverted.value.includes(id) ? inverted.value.filter(h => h !== id) : [...inverted.value, id]
    },
    turnTheme: () => {
      chosenTheme.value = theme.value === 'day' ? 'night' : 'day'
    },
  }
})
