import { loadFastFft } from '../../core/dsp/fastFft'
import { allOf, contentOf, type Documents } from '../../core/documents'
import type { Rig, Settings, Wiring } from '../../core/rig'
import { ropewalkDevices, tunedSettings } from '../ropewalk/devices'
import { faultsOf, ropewalk, ropewalkTuned } from '../ropewalk/site'
import type { Hall } from './venue'

// For tests: the demo's halls and rigs as the page hands them to the simulated interface.

export const fast = await loadFastFft()
export type PluggedRig = Rig & { wiring: Wiring }

const hallOf = (documents: Documents): Hall => ({
  plan: contentOf(documents, 'plan')!,
  sources: allOf(documents, 'source'),
  sheets: allOf(documents, 'sheet'),
  faults: faultsOf(contentOf(documents, 'site')),
})
export const hall = hallOf(ropewalk.documents)
export const tunedHall = hallOf(ropewalkTuned.documents)
/** The demo's hall without its hidden faults. */
export const soundHall: Hall = { ...hall, faults: tunedHall.faults }
export const { plan, sources } = hall
export const positions = allOf(ropewalk.documents, 'position')
export const wiring = contentOf(ropewalk.documents, 'wiring')!

const rigOf = (settings: (id: string, delivered: Settings) => Settings): PluggedRig => ({
  devices: Object.fromEntries(ropewalkDevices.map(({ id, capability, delivered }) =>
    [id, { capability, settings: settings(id, delivered) }])),
  wiring,
})
/** As the last crew left it: only Main L is fed with the test signal. */
export const delivered = rigOf((_, settings) => settings)
/** Nothing is connected. */
export const unfed = rigOf(() => ({}))
export const tuned = rigOf(id => tunedSettings[id] ?? {})

/** A rig with other settings in its processor; undefined makes a parameter neutral. */
export const edited = (rig: PluggedRig, change: Record<string, unknown>): PluggedRig => {
  const processor = rig.devices.processor!
  const all = Object.entries({ ...processor.settings, ...change })
  const settings: Settings = Object.fromEntries(all.filter(([, value]) => value !== undefined))
  return {
    ...rig,
    devices: { ...rig.devices, processor: { ...processor, settings } },
  }
}
