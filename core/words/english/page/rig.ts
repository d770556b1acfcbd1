/** Words of Rig. */
export const rig = {
  'rig.readingItsSettings': 'reading its settings',
  'rig.inSync': 'in sync',
  'rig.controlledByAnotherSite': 'controlled by another site',
  'rig.notConfirmed': 'not confirmed',
  'rig.connection': 'Connection',
  'rig.whatItIs': 'What it is',
  'rig.unsentEdits': 'Unsent edits',
  'rig.since': 'since {time}',
  'rig.takeControl': 'Take control',
  'rig.connectTo': 'Connect to {address}',
  'rig.inOutKhz': '{inputs} in, {outputs} out, {sampleRate} kHz',
  'rig.msThroughIt': '{latency} ms through it',
  'rig.by': 'by {who}',
  'rig.discardAllDrafts': 'Discard all drafts',
  'rig.rig': 'Rig',
} as const
