import { createError } from 'h3'
import type { PlanAnswer } from '../rig/plan'
import { notFound } from './request'

/** A plan answer as HTTP: 404, 409 or 422 with the reason in words. */
export function answerPlan(answer: PlanAnswer, site: string) {
  if (answer.status === 'missing') throw notFound(`site “${site}”`)
  if (answer.status === 'overtaken') throw createError({ statusCode: 409, message: answer.why })
  if (answer.status === 'refused') throw createError({ statusCode: 422, message: answer.why })
  return { kept: true }
}
