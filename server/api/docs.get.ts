import { version } from '../../package.json'
import { openApi } from '../../core/contract'
import { docsPage } from '../utils/docs'

/** The HTTP interface as a page. */
export default defineEventHandler((event) => {
  setResponseHeader(event, 'content-type', 'text/html; charset=utf-8')
  return docsPage(openApi(version))
})
