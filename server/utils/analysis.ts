import { getQuery, getRequestHeader, setResponseHeader, setResponseHeaders, type H3Event } from 'h3'
import {
  bodies,
  queries,
  type AnalysisJob,
  type PartsId,
  type RecordingId,
  type ShapeId,
} from '../../core/contract/analysis'
import { sharer } from '../access/shares'
import { Busy, NotAnalysable, runAnalysis } from '../jobs/pool'
import { refused } from './refused'

const longest = 512 * 1024 * 1024

/**
 * Answers one analysis of the WAV in the request's body; 400 for a wrong option, 422 for a recording that
 * cannot be analysed, 429 or 503 while too many wait, of this asker or of all.
 */
export async function answerAnalysis(event: H3Event, what: RecordingId) {
  const query = checked(queries[what], getQuery(event), 'the query')
  const bytes = await readBytes(event, longest)
  return answerOf(event, { what, query } as AnalysisJob, bytes)
}

const longestBody = 32 * 1024 * 1024
/** Answers one analysis of the JSON in the request's body: 400 for a body that is not understood, else as above. */
export async function answerShape(event: H3Event, what: ShapeId) {
  const body = await readChecked(event, bodies[what], longestBody)
  return answerOf(event, { what, body } as AnalysisJob, new Uint8Array())
}

const longestForm = 192 * 1024 * 1024
/** Answers one analysis of the WAV parts of a form and its options; the form is taken apart in the worker. */
export async function answerParts(event: H3Event, what: PartsId) {
  const form = getRequestHeader(event, 'content-type') ?? ''
  return answerOf(event, { what, form }, await readBytes(event, longestForm))
}

async function answerOf(event: H3Event, job: AnalysisJob, bytes: Uint8Array) {
  const left = new AbortController()
  event.node.res.once('close', () => left.abort())
  try {
    const answer = await runAnalysis(job, bytes, left.signal, await sharer(event.node.req))
    setResponseHeaders(event, { 'content-type': answer.type, ...answer.headers })
    return typeof answer.body === 'string' ? answer.body : Buffer.from(answer.body)
  }
  catch (error) {
    if (left.signal.aborted) return null
    if (error instanceof NotAnalysable)
      throw refused(error.misread ? 400 : 422, error.told)
    if (error instanceof Busy) {
      setResponseHeader(event, 'retry-after', error.seconds)
      throw refused(error.own ? 429 : 503, error.told)
    }
    throw error
  }
}
