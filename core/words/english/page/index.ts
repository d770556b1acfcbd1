import { align } from './align'
import { charts } from './charts'
import { common } from './common'
import { document } from './document'
import { frame } from './frame'
import { listen } from './listen'
import { parts } from './parts'
import { rig } from './rig'
import { run } from './run'
import { shape } from './shape'
import { site } from './site'
import { sites } from './sites'
import { sound } from './sound'
import { watch } from './watch'

/** Every label and sentence of the page that is not told by what is below it. */
export const page = {
  ...align,
  ...charts,
  ...common,
  ...document,
  ...frame,
  ...listen,
  ...parts,
  ...rig,
  ...run,
  ...shape,
  ...site,
  ...sites,
  ...sound,
  ...watch,
} as const
