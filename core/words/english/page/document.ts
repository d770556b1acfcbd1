import { lines } from '../lines'

/** Words about the open site, its takes and drafts. */
export const document = {
  'document.notApplied': 'Not applied.',
  'document.playTestSignals': 'Play test signals?',
  'document.thisRaisesTheLevel': 'This raises the level. Apply?',
  'document.nothingHasBeenSent': 'Nothing has been sent yet.',
  'document.technician': 'Technician',
  'document.kovrinsDatabaseDoesNot': 'Kovrin’s database does not answer.',
  'document.ofUnsentEditsWas': lines(
    '{count} of {unsentCount} unsent edits {count, plural, one {was written} other {were written}} by {others}, ',
    'and would be {doing} too.',
  ),
  'document.alsoWhatOthersWrote': '{yes}, also what others wrote?',
  'document.discardAll': 'Discard all',
  'document.severalSoundedTogether': 'several sounded together',
  'document.itsOutputsChangedEach': 'its outputs changed each in its own way',
  'document.predictedAndMeasuredDiffer': ' Predicted and measured differ by {by} dB, where both are trusted.',
  'document.itsSheet': 'its sheet',
  'document.wasMoved': '{name} was moved.',
  'document.itsSettingsCouldNot':
    'Its settings could not be read yet: whether they are still the same cannot be told.',
  'document.itsPredictionLeavesOut': lines(
    'Its prediction leaves out {unforeseen}: that changes only some of the outputs that sounded together. Sweep ',
    'each output alone, and it can be predicted.',
  ),
  'document.deleteIt': 'Delete it',
  'document.thisSites': '{name} (this site’s)',
  'document.itHasNoLink': 'It has no link',
  'document.forNow': '{who}, for now ({what})',
} as const
