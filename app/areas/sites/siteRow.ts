import type { ListedSite } from '~~/core/contract'
import { allOf, contentOf } from '~~/core/documents'

/** One site of the list, as it is shown. */
export function rowOf({ id, touchedAt, documents }: ListedSite) {
  const info = contentOf(documents, 'site')!
  return {
    id,
    touchedAt,
    ...info,
    plan: contentOf(documents, 'plan')!,
    areas: allOf(documents, 'area'),
    sources: allOf(documents, 'source'),
    positions: allOf(documents, 'position'),
  }
}
export type SiteRow = ReturnType<typeof rowOf>
