import { contentOf } from '../../../../../../../core/documents'
import { drivePreset } from '../../../../../../links/driving'

/** The settings that a preset of a device would make. */
export default defineEventHandler(async (event) => {
  const { site, device, documents } = await deviceAsked(event)
  const slot = Number(param(event, 'slot'))
  const place = contentOf(documents, 'housekeeping', device)?.presets.find(p => p.slot === slot)
  if (!place || place.isEmpty) throw notFound('preset.noSuch')
  return { settings: await drivePreset(site, device, slot) }
})
