import type { AreaId } from '~/document/view'
import { phrase } from '~/parts/phrase'

/** One page of the guide, as it stands in docs/guide. */
export interface GuidePage {
  id: string
  title: string
  text: string
}

/** The pages in the order in which they are read; the file names in docs/guide. */
export const guideOrder = [
  'first-measurement', 'align-subs', 'whole-system', 'trust', 'charts', 'formats', 'backup', 'troubleshooting',
] as const
export type GuideId = (typeof guideOrder)[number]

/** Pages of the guide by what they are called. */
export const guideNames: Readonly<Record<GuideId, string>> = {
  'first-measurement': phrase('frame.firstMeasurement'),
  'align-subs': phrase('frame.alignSubsToMains'),
  'whole-system': phrase('frame.aWholeSystemIn'),
  'trust': phrase('frame.whenACurveCan'),
  'charts': phrase('frame.everyChart'),
  'formats': phrase('frame.filesInAndOut'),
  'backup': phrase('frame.backupHistoryDeletedThings'),
  'troubleshooting': 'troubleshooting',
}

/** The page that helps most in each area. */
export const guideFor: Readonly<Record<AreaId, GuideId>> = {
  site: 'whole-system',
  rig: 'troubleshooting',
  listen: 'first-measurement',
  shape: 'charts',
  align: 'align-subs',
  run: 'whole-system',
  watch: 'backup',
}

/** A page from its file: its title is its first heading. */
export const pageOf = (id: string, text: string): GuidePage =>
  ({ id, title: /^# (.+)$/m.exec(text)?.[1] ?? id, text })

/** Words of a page as they are read, without the marks of Markdown. */
const plain = (text: string) => text.replace(/!?\[([^\]]*)\]\([^)]*\)/g, '$1').replace(/[*`#|]/g, '')

/**
 * Pages that have all of these words, those with them in the title first; each with the line that has the first of
 * them. All pages, without lines, where nothing is asked for.
 */
export function findIn(pages: readonly GuidePage[], asked: string): { page: GuidePage, line: string }[] {
  const words = asked.toLowerCase().split(/\s+/).filter(Boolean)
  if (!words.length) return pages.map(page => ({ page, line: '' }))
  return pages
    .filter(p => words.every(w => plain(p.text).toLowerCase().includes(w)))
    .map((page) => {
      const line = plain(page.text).split('\n').find(l => l.toLowerCase().includes(words[0]!))?.trim() ?? ''
      return { page, line, isTitle: page.title.toLowerCase().includes(words[0]!) }
    })
    .toSorted((a, b) => Number(b.isTitle) - Number(a.isTitle))
}
