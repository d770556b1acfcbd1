import type { H3Event } from 'h3'
import { UndoBody } from '../../core/contract'
import { asker } from '../access/sessions'
import { sendLive } from '../links/sending'
import { Passage } from '../store/gate'
import { undo } from '../store/undo'
import { answered } from './answers'
import { refused } from './refused'
import { notFound, param, readChecked } from './request'
import { message } from '../../core/words'

/** Takes back the asker's newest change, or makes it again; live settings go on to their devices. */
export async function undoing(event: H3Event, which: 'undo' | 'redo') {
  const site = param(event, 'site')
  const { live, agreed } = await readChecked(event, UndoBody)
  const passage = new Passage(site, agreed)
  try {
    const answer = await undo(site, which === 'redo', live, await asker(event), passage)
    if (answer.status === 'missing') throw notFound('site.noSuch')
    if (answer.status === 'nothing') throw refused(409, message('undo.nothing', { which }))
    if (answer.status === 'refused') throw refused(409, answer.why)
    if (answer.status === 'louder') throw answered(answer.refusal)
    const { changes } = answer
    const { why } = await sendLive(passage, live ? changes : [], { ok: true, changes, documents: {} })
    return { what: answer.what, why }
  }
  finally {
    passage.end()
  }
}
