import { sameEndpoint, type Endpoint } from '../rig'
import { compose, type Group } from './group'
import type { Documents } from './kinds'
import { noNeeds, type Needs } from './sheet'
import { allOf, contentOf } from './site'

/** Groups that an output belongs to, in their order. */
export const groupsOf = (documents: Documents, output: Endpoint): Group[] =>
  allOf(documents, 'group').filter(g => g.members.some(m => sameEndpoint(m, output)))

/** The sheet's band that an output follows; undefined: none. */
export function sheetNeeds(documents: Documents, output: Endpoint): Needs | undefined {
  const follows = contentOf(documents, 'wiring')?.follows?.[`${output.device}:${output.channel}`]
  if (!follows) return undefined
  return contentOf(documents, 'sheet', follows.sheet)?.bands.find(b => b.id === follows.band)?.needs ?? noNeeds
}

/** All that is laid over an output from outside: its sheet, then its groups. */
export const layersOn = (documents: Documents, output: Endpoint): Needs =>
  compose(sheetNeeds(documents, output) ?? noNeeds, groupsOf(documents, output).map(g => g.layer))
