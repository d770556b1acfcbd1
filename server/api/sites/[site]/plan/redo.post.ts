import { redoPlan } from '../../../../rig/plan'
import { answerPlan } from '../../../../utils/plan'

export default defineEventHandler(async event => answerPlan(await redoPlan(param(event, 'site')), param(event, 'site'), 'redo'))
