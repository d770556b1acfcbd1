import {
  applyEdit,
  contentOf,
  detachEdits,
  followEdits,
  heardThrough,
  layersOn,
  layerEdits,
  type DesiredEdit,
  type Documents,
  type Group,
  type Sheet,
  type DesiredSetting,
} from '~~/core/documents'
import { endpointKey, type Endpoint } from '~~/core/rig'

import { useSite } from './site'
import { useNotices } from '~/parts/notices'

/** Loudspeaker sheets and the outputs that follow them: whatever changes, changes together or not at all. */
export function useSheets() {
  const site = useSite()
  const notices = useNotices()

  /** What an output is called, with what is heard through it. */
  function outputName(output: Endpoint): string {
    const heard = heardThrough(site.documents, output).map(h => site.sourceName(h.source))
    const names = [...new Set(heard)].join(', ')
    return `${site.deviceName(output.device)}, output ${output.channel + 1}${names ? ` (${names})` : ''}`
  }
  /** Changes sheets, groups or who follows them, with every output that this reaches. */
  async function make(
    others: readonly DesiredEdit[],
    edits: () => readonly DesiredSetting[] = () => layerEdits(site.documents, after(others)),
  ): Promise<boolean> {
    try {
      const settings = edits()
      const wishes = site.wishesFor(settings)
      return wishes !== null && await site.change([...others, ...wishes], {
        live: site.live, gesture: crypto.randomUUID(),
      })
    }
    catch (error) {
      notices.fail(error)
      return false
    }
  }
  /** The documents as some wishes make them. */
  const after = (wishes: readonly DesiredEdit[]) =>
    wishes.reduce<Documents>((documents, w) => applyEdit(documents, { ...w }), site.documents)
  const follows = (output: Endpoint, to: { sheet: string, band: string } | null): DesiredEdit => {
    const { [endpointKey(output)]: _, ...rest } = site.wiring.follows ?? {}
    return { document: 'wiring', path: '/follows', new: to ? { ...rest, [endpointKey(output)]: to } : rest }
  }
  return {
    outputName,
    /** An output takes over what a band of a sheet says, in place of what it followed before. */
    attach: (output: Endpoint, to: { sheet: string, band: string }) => make([follows(output, to)]),
    /** Its settings stay as they are; the sheet no longer reaches it. */
    detach: (output: Endpoint) => make([follows(output, null)], () => detachEdits(site.documents, output)),
    /** What was set otherwise since is as its sheet and its groups say again. */
    putBack(output: Endpoint) {
      const over = layersOn(site.documents, output)
      return make([], () => followEdits(site.documents, output, over, over))
    },
    /** A sheet as it shall be, in the library of the site and in every output that follows it. */
    save: (sheet: Sheet) => make([{ document: `sheet/${sheet.id}`, path: '', new: sheet }]),
    saveGroup: (group: Group) => make([{ document: `group/${group.id}`, path: '', new: group }]),
    removeGroup: (id: string) => make([{ document: `group/${id}`, path: '', new: undefined }]),
    remove: (id: string) => site.change([{ document: `sheet/${id}`, path: '', new: undefined }], { live: false }),
    isThere: (id: string) => contentOf(site.documents, 'sheet', id) !== undefined,
  }
}
