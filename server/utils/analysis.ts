import { createError, getQuery, setResponseHeader, setResponseHeaders, type H3Event } from 'h3'
import { queries, type AnalysisId, type AnalysisJob } from '../../core/contract/analysis'
import { Busy, NotAnalysable, runAnalysis } from '../jobs/pool'

const longest = 512 * 1024 * 1024

/**
 * Answers one analysis of the WAV in the request's body; 400 for a wrong option, 422 for a recording that
 * cannot be analysed, 503 while too many wait.
 */
export async function answerAnalysis(event: H3Event, what: AnalysisId) {
  const query = checked(queries[what], getQuery(event))
  const bytes = await readBytes(event, longest)
  const left = new AbortController()
  event.node.res.once('close', () => left.abort())
  try {
    const answer = await runAnalysis({ what, query } as AnalysisJob, bytes, left.signal)
    setResponseHeaders(event, { 'content-type': answer.type, ...answer.headers })
    return typeof answer.body === 'string' ? answer.body : Buffer.from(answer.body)
  }
  catch (error) {
    if (left.signal.aborted) return null
    if (error instanceof NotAnalysable) throw createError({ statusCode: 422, message: error.message })
    if (error instanceof Busy) {
      setResponseHeader(event, 'retry-after', error.seconds)
      throw createError({ statusCode: 503, message: error.message })
    }
    throw error
  }
}
