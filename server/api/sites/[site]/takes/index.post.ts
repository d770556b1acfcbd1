import { TakeHead } from '../../../../../core/contract'
import { decodeTake } from '../../../../../core/formats/take'
import { keepTake } from '../../../../store/takes'
import { asker } from '../../../../access/sessions'
import { message, toldOf } from '../../../../../core/words'

const limit = 32 * 1024 * 1024

function headOf(bytes: Buffer): { head: unknown, data: Buffer } {
  const length = bytes.length >= 4 ? bytes.readUInt32LE(0) : 0
  if (length < 2 || 4 + length > bytes.length) {
    throw refused(400, message('take.noHead'))
  }
  const head = parseJson(bytes.subarray(4, 4 + length))
  if (!head.ok) throw refused(400, message('take.headNotTaken', { why: head.why }))
  return { head: head.value, data: bytes.subarray(4 + length) }
}

/** Body: length of the JSON head (uint32, little-endian), the head, the take's bytes. */
export default defineEventHandler(async (event) => {
  const { head, data } = headOf(await readBytes(event, limit))
  const wanted = checked(TakeHead, head)
  try {
    decodeTake(data)
  }
  catch (error) { throw refused(400, toldOf(error)) }
  const outcome = await keepTake(param(event, 'site'), wanted, data, await asker(event))
  answered(outcome)
  setResponseStatus(event, 201)
  return outcome.take
})
