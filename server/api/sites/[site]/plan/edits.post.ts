import { editPlan, PlanEdit } from '../../../../rig/plan'
import { answerPlan } from '../../../../utils/plan'

export default defineEventHandler(async (event) => {
  const edit = await readChecked(event, PlanEdit)
  return answerPlan(await editPlan(param(event, 'site'), edit, whoAsks(event)), param(event, 'site'))
})
