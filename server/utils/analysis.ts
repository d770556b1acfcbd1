import { getQuery, setResponseHeaders, type H3Event } from 'h3'
import { NotAnalysable, runAnalysis } from '../jobs/pool'
import { queries, type AnalysisId, type AnalysisJob } from '../../core/contract/analysis'

const longest = 512 * 1024 * 1024

/**
 * Answers one analysis of the WAV in the request's body; 400 for a wrong option, 422 for a recording that
 * cannot be analysed.
 */
export async function answerAnalysis(event: H3Event, what: AnalysisId) {
  const query = checked(queries[what], getQuery(event))
  const bytes = await readBytes(event, longest)
  try {
    const answer = await runAnalysis({ what, query } as AnalysisJob, bytes)
    setResponseHeaders(event, { 'content-type': answer.type, ...answer.headers })
    return typeof answer.body === 'string' ? answer.body : Buffer.from(answer.body)
  }
  catch (error) {
    if (error instanceof NotAnalysable) throw createError({ statusCode: 422, message: error.message })
    throw error
  }
}
