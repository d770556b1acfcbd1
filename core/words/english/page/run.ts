import { lines } from '../lines'

/** Words of the run sheet. */
export const run = {
  'run.routingForTheShow': 'Routing for the show',
  'run.measureEachSourceAlone': 'Measure each source alone',
  'run.correctEachSource': 'Correct each source',
  'run.whereTheyOverlap': 'Where they overlap',
  'run.proveIt': 'Prove it',
  'run.toDoAgain': 'to do again',
  'run.runSheet': 'Run sheet, {name}',
  'run.print': 'Print',
  'run.doItForMe': 'Do it for me',
  'run.measuresEachSourceAlone':
    'Measures each source alone, computes, and proposes: nothing is set before you accept it',
  'run.ofStepsAreDone': '{done} of {all} steps are done, by what was measured and what is set. {next}',
  'run.open': 'Open',
  'run.open2': 'Open: {title}',
  'run.skip': 'Skip',
  'run.checking': 'Checking …',
  'run.stepsAppearWhenThere': 'Steps appear when there are sources and positions: see Site.',
  'run.dbBetweenThePositions': '{between} dB between the positions, {off} dB off the target',
  'run.cannotTellNoPosition': 'cannot tell: no position where every source was measured',
  'run.measuring': 'Measuring.',
  'run.of': '{at} of {all}: {name}',
  'run.moveTheMicrophoneTo': 'Move the microphone to {name}.',
  'run.nothingPlaysMeanwhile': 'Nothing plays meanwhile.',
  'run.microphoneIsInPlace': 'Microphone is in place',
  'run.computing': 'Computing.',
  'run.proposalNothingIsSet': '{proposals, plural, one {# proposal} other {# proposals}}; nothing is set yet',
  'run.rejectAll': 'Reject all',
  'run.acceptOf': 'Accept {chosen} of {proposals}',
  'run.allSourcesTogetherThirds':
    'All sources together, thirds of an octave, 100 Hz to 10 kHz. Now: {figures}. With what is picked:',
  'run.needsYourCheck': 'Needs your check',
  'run.notInSyncConnect': '{away} {are} not in sync. Connect {them} in Rig, then start again.',
  'run.eachSourceWillPlay': lines(
    'Each source will play sweeps by itself at {level} dBFS, the others muted meanwhile. Is everybody out of the ',
    'way?',
  ),
  'run.start': 'Start',
  'run.proposalIsSetSetting': lines(
    '{count, plural, one {# proposal is} other {# proposals are}} set, {edits, plural, one {# setting} other {# ',
    'settings}} in all.',
  ),
  'run.next': 'Next: {title}.',
} as const
