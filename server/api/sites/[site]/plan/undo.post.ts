import { undoPlan } from '../../../../rig/plan'
import { answerPlan } from '../../../../utils/plan'

export default defineEventHandler(async event => answerPlan(await undoPlan(param(event, 'site')), param(event, 'site')))
