import { acoustics } from './acoustics'
import { documents } from './documents'
import { files } from './files'
import { findings } from './findings'
import { log } from './log'
import { measuring } from './measuring'
import { notices } from './notices'
import { page } from './page'
import { protocol } from './protocol'
import { rig } from './rig'
import { server } from './server'
import { signals } from './signals'
import { tuning } from './tuning'
import { units } from './units'

/**
 * Every sentence that is told by its code, in English; ICU MessageFormat, so that another language is another folder
 * with the same keys. A placeholder is a value of the message: its name is checked where the message is made.
 */
export const english = {
  /** What comes from elsewhere (a library, the system, a device) in its own words. */
  words: '{text}',
  several: '{list}',
  ...acoustics,
  ...documents,
  ...files,
  ...findings,
  ...log,
  ...measuring,
  ...notices,
  ...page,
  ...protocol,
  ...rig,
  ...server,
  ...signals,
  ...tuning,
  ...units,
} as const
