import { answerUndo } from '../../../utils/undo'

export default defineEventHandler(event => answerUndo(event, false))
