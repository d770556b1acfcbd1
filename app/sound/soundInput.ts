import type { GeneratorRequest } from '~~/core/contract'
import type { Tap } from '~~/core/measure'
import { simulatedTaps } from '~~/standins/venue/offers'
import { useComputerInputs } from './computerInputs'
import { useHall, type Asked } from './hall'
import { useSets } from './sets'
import type { SoundFrom } from './soundFacts'

/** A change in what sounds, told by the input itself: frames that hold it already, and whether microphones moved. */
export type SoundChanged = (ago: number, moved: boolean, asked: Asked) => void

/** One way by which sound comes in: opened into a ring, told what the generator plays, closed. */
export interface SoundInput {
  /** `use` gets the ring with the tap of each of its channels, also when it comes back; nothing before it is open. */
  open(
    taps: readonly Tap[],
    use: (buffer: SharedArrayBuffer, taps: readonly Tap[]) => void,
    changed: SoundChanged,
  ): void | Promise<void>
  close(): void
  tell(request: GeneratorRequest): void
  /** Silence at once, of all that it plays by itself as well. */
  hush(): void
  /** Brings its microphones to where they are said to stand; false: a person has done it already. */
  move(): boolean
  /** Where its microphones stand, or are said to stand: another answer is another place. */
  places(): unknown
}

/** Every way by which sound comes in. Whoever measures knows this door alone. */
export function useSoundInputs(): Readonly<Record<SoundFrom, SoundInput>> {
  const hall = useHall()
  const computer = useComputerInputs()
  const sets = useSets()
  return {
    venue: {
      open: (_, use, changed) => hall.open(buffer => use(buffer, simulatedTaps), changed),
      close: hall.close,
      tell: hall.tell,
      hush() {
        hall.tell({ type: 'hush' })
        hall.programme = false // a real console has its own fader; the simulated one obeys
      },
      move() {
        hall.move()
        return true
      },
      places: () => hall.places,
    },
    computer: {
      open: (taps, use) => computer.open(taps, buffer => use(buffer, taps)),
      close: computer.close,
      tell: computer.tell,
      hush: () => computer.tell({ type: 'hush' }),
      move: () => false,
      places: () => sets.able.map(m => sets.placeOf(m)?.id),
    },
  }
}
