/** Words of the controls themselves. */
export const parts = {
  'parts.on': 'on',
  'parts.off': 'off',
  'parts.whatCanBePicked': '{called}: what can be picked',
  'parts.findIn': 'Find in {called}',
  'parts.restore': 'Restore {name}',
  'parts.deleteForGood': 'Delete for good …',
  'parts.deleteForGood2': 'Delete {name} for good …',
  'parts.deleteForGood3': 'Delete for good?',
  'parts.deleteForGood4': 'Delete for good',
  'parts.now': 'now {now}{by}',
  'parts.whatTheDeviceHolds': 'What the device holds now',
  'parts.typeDragSidewaysOr': 'Type, drag sideways, or arrow keys and wheel; Shift: ten steps',
  'parts.opening': 'Opening …',
  'parts.thisPartDidNot': 'This part did not load. ',
  'parts.reloadThePage': 'Reload the page',
  'parts.by': ' by {by}',
} as const
