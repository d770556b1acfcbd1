import * as v from 'valibot'
import { decodeTake, TakeInfo } from '../../../../../core/formats/take'
import { keepTake } from '../../../../rig/takes'

const Head = v.strictObject({
  source: v.string(),
  position: v.string(),
  info: TakeInfo,
  name: v.optional(v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(120))),
})
const limit = 32 * 1024 * 1024

/** Body: length of the JSON head (uint32, little-endian), the head { source, position, info }, the take's bytes. */
export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const bytes = await readBytes(event, limit)
  const length = bytes.length >= 4 ? bytes.readUInt32LE(0) : 0
  if (length < 2 || 4 + length > bytes.length)
    throw createError({ statusCode: 400, message: 'The take’s head is missing or cut short.' })
  let json: unknown
  try {
    json = JSON.parse(bytes.toString('utf8', 4, 4 + length))
  }
  catch {
    throw createError({ statusCode: 400, message: 'The take’s head is not JSON.' })
  }
  const head = checked(Head, json)
  const data = bytes.subarray(4 + length)
  try {
    decodeTake(data)
  }
  catch (error) {
    throw createError({ statusCode: 400, message: (error as Error).message })
  }
  const answer = await keepTake(site, head, head.info, data, whoAsks(event), head.name)
  if (answer.status === 'missing') throw notFound(answer.what)
  if (answer.status === 'moved') throw createError({ statusCode: 409, message: answer.why })
  setResponseStatus(event, 201)
  return answer.take
})
