import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import type { EngineSettings } from '~~/core/contract'
import { windows, type WindowId } from '~~/core/dsp'
import { lowestOf, type Averaging, type Estimator } from '~~/core/measure'
import { phrase } from '~/parts/phrase'

export const averagings: { id: string, name: string, averaging: Averaging }[] = [
  { id: 'fast', name: '0.5 s', averaging: { kind: 'exponential', time: 0.5 } },
  { id: 'watch', name: '1 s', averaging: { kind: 'exponential', time: 1 } },
  { id: 'slow', name: '4 s', averaging: { kind: 'exponential', time: 4 } },
  ...[1, 2, 4, 8, 16, 32, 64].map(count => ({
    id: `${count}`,
    name: count === 1 ? phrase('sound.block') : phrase('sound.blocks', { count }),
    averaging: { kind: 'blocks' as const, count },
  })),
  { id: 'all', name: phrase('sound.allSinceTheRestart'), averaging: { kind: 'all' } },
]
export const blockLengths = ['multi', ...Array.from({ length: 8 }, (_, k) => 2 ** (10 + k))] as const

/** How the analysis measures: block length, averaging, window, and what is done with poor blocks. */
export const useEngine = defineStore('engine', () => {
  const averagingId = useLocalStorage('kovrin-averaging', 'watch')
  const length = useLocalStorage<number | 'multi'>('kovrin-length', 'multi', {
    serializer: { read: t => (t === 'multi' ? t : Number(t)), write: String },
  })
  const estimator = useLocalStorage<Estimator>('kovrin-estimator', 'H1', {
    // what an earlier version called otherwise
    serializer: { read: t => (t === 'Hv' ? 'Hg' : t as Estimator), write: String },
  })
  const window = useLocalStorage<WindowId>('kovrin-window', 'hann')
  /** Part of a block shared with the next. */
  const overlap = useLocalStorage('kovrin-overlap', 0.75)
  const dropPoor = useLocalStorage('kovrin-drop-poor', false)
  const settings = computed<EngineSettings>(() => ({
    length: length.value,
    overlap: overlap.value,
    dropPoor: dropPoor.value,
    estimator: estimator.value,
    window: window.value,
    averaging: (averagings.find(a => a.id === averagingId.value) ?? averagings[1]!).averaging,
  }))
  /** True while the compensated delay follows the arrival. */
  const following = useLocalStorage('kovrin-follow', false)
  /** What a window of one block length resolves at least; 0 for several lengths, which reach below every chart. */
  const lowest = (sampleRate: number, blocks = length.value) =>
    blocks === 'multi' ? 0 : lowestOf(blocks, sampleRate, windows[window.value].lobe)
  return { lowest, averagingId, length, overlap, dropPoor, estimator, window, following, settings }
})
