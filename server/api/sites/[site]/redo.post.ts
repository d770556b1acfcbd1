import { undoing } from '../../../utils/undoing'

export default defineEventHandler(event => undoing(event, 'redo'))
