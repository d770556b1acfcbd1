import { version } from '../../package.json'
import { openApi } from '../../core/contract'

export default defineEventHandler(() => openApi(version))
