import type { LinkState } from '~~/core/documents'
import type { Label } from '~~/core/words'

/** What is said of a connection. */
export const linkWords: Readonly<Record<LinkState['state'], Label>> = {
  searching: 'rig.connecting',
  reading: 'rig.readingItsSettings',
  live: 'rig.inSync',
  lost: 'rig.offline',
  elsewhere: 'rig.controlledByAnotherSite',
  unconfirmed: 'rig.notConfirmed',
}
