import { contentOf, type Edit } from '../../core/documents'
import { actorOf, type Doing, type Outcome } from './actor'
import { Passage, settingsAmong } from './gate'
import { message } from '../../core/words'

/** Who asks for something: a name for the history, and a key that tells two of the same name apart. */
export interface Asker {
  who: string
  person: string
}

export interface EditRequest {
  edits: readonly Edit[]
  /** Edits of one gesture are taken back together; null keeps them out of undo. */
  gesture: string | null
  live: boolean
}

export const byHand = ({ who, person }: Asker, gesture: string | null, live: boolean): Doing =>
  ({ who, person, gesture, live, origin: 'edit', undo: gesture === null ? 'none' : 'done' })

/**
 * Makes edits of a person: all of them, or none with the reason. A deleted site takes only that it be brought back.
 * Live settings ask `passage` first.
 */
export async function makeEdits(
  site: string,
  { edits, gesture, live }: EditRequest,
  asker: Asker,
  passage = new Passage(site),
): Promise<Outcome> {
  return actorOf(site).do(async (now) => {
    const isBack = edits.every(e => e.document === 'site' && e.path === '/deleted')
    if (contentOf(now, 'site')?.deleted && !isBack) {
      return { ok: false, status: 'missing', why: message('site.noSuch') }
    }
    const refused = live ? await passage.admit(now, settingsAmong(now, edits)) : null
    return refused ?? { ok: true, hand: 'person', parts: [{ edits, doing: byHand(asker, gesture, live) }] }
  })
}
