import { ContentsBody } from '../../core/contract'
import { readContents } from '../store/contents'

/** Snapshots and capabilities by their hashes. */
export default defineEventHandler(async (event) => {
  const { hashes } = await readChecked(event, ContentsBody)
  return readContents(hashes)
})
