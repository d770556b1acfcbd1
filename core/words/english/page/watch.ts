/** Words of Watch. */
export const watch = {
  'watch.confirmedByTheDevice': 'confirmed by the device',
  'watch.changedAtTheDevice': 'changed at the device',
  'watch.when': 'When',
  'watch.who': 'Who',
  'watch.setting': 'Setting',
  'watch.oldNew': 'Old → new',
  'watch.how': 'How',
  'watch.what': 'What',
  'watch.changeHistory': 'Change history',
  'watch.changeTemporaryTooMutes':
    '{folded, plural, one {# change} other {# changes}} temporary too (mutes of a sweep, trials)',
  'watch.filterChangesAndLog': 'Filter changes and log',
  'watch.filter': 'Filter',
  'watch.noChangeSays': 'No change says “{wanted}”.',
  'watch.onlyTemporaryChangesAll': 'Only temporary changes, all restored.',
  'watch.nothingHasBeenChanged': 'Nothing has been changed yet. Every edit will be listed here.',
  'watch.changes': 'Changes',
  'watch.log': 'Log',
  'watch.watch': 'Watch',
} as const
