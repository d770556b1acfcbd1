import { lines } from './lines'

export const measuring = {
  'average.none': 'There is nothing to average.',
  'average.grids': 'The curves to average do not share a grid.',
  'average.noWeight': 'All positions to average have the weight 0.',
  'measure.referenceSilent': 'The reference is silent: there is nothing to compare the microphone with.',
  'measure.lengthsDiffer': 'Reference and microphone must be of one length.',
  'measure.microphoneSilent': 'The microphone is silent: nothing of the reference was heard.',
  'measure.tooShort': 'The recording of {seconds} s is too short for one block.',
  'measure.clipped': 'The {what} is clipped: level and coherence are those of the clipped signal.',
  'measure.fewBlocks':
    'Only {blocks, plural, one {# block was} other {# blocks were}} heard: coherence says little yet.',
  'measure.littleTrusted': 'Coherence is under {threshold} in {percent} % of {low} to {high}.',
  'measure.noArrival': 'No arrival stands out: no delay was removed, so phase and polarity cannot be told.',
  'measure.tooCoarse': 'Blocks of {length} samples resolve nothing below {lowest} Hz.',
  'calibration.notHeard': lines(
    'No calibrator is heard: its tone of 1 kHz must stand at least {over} dB over everything else. ',
    'Nothing was changed.',
  ),
  'calibration.nothingHeard': lines(
    'Nothing measured yet: start listening, put the calibrator on the microphone, then press again.',
  ),
  'calibration.done': 'Calibrated: 0 dBFS is {level} dB.',
  'measure.stopped': 'The analysis stopped: {why}',
  'measure.notStarted': 'The analysis cannot start: {why}',
  'measure.nothingListens': 'Nothing listens: let the measurement go on, then sweep.',
  'hall.notStarted': 'The hall cannot start: {why}',
  'take.nothingYet': 'Nothing measured yet.',
  'take.paused': 'This measurement is paused: let it go on, then take it.',
  'take.inputEnded': 'Nothing comes from the input any more. Nothing was kept.',
  'take.leftOut': 'One of the microphones found no arrival of its own and was left out.',
  'take.changedBefore': 'The settings changed before there was enough to keep. Nothing was kept: take it again.',
  'sweep.microphoneSilent': 'The microphone is silent during the sweep: is it on, and on this channel?',
  'sweep.clips': 'The microphone clipped during the sweep. Turn it or the sweep down and do it again.',
  'sweep.flattened': lines(
    'The microphone’s signal is cut off at the top, before full scale: something clips in its way. ',
    'Turn it or the sweep down and do it again.',
  ),
  'sweep.wouldClip': 'The microphone would clip (peak {peak} dBFS): turn it or the sweep down by {by} dB.',
  'sweep.hearsLittle': lines(
    'The microphone hears too little ({level} dBFS): is the loudspeaker fed and the microphone on? ',
    'The path ribbon says where it ends.',
  ),
  'sweep.referenceStays': 'The reference stays silent. Is it wired to the right channel?',
  'sweep.noCell': 'Pick a cell in the ledger first: which loudspeaker is this, and where is the microphone?',
  'sweep.unfed': lines(
    '{source} gets no signal: the sweep would record another loudspeaker. ',
    'Press “Feed only this” in the path ribbon, then sweep.',
  ),
  'sweep.notOpened': 'The sound input did not open.',
  'sweep.notSwitched': 'The loudspeakers could not be switched for the sweep.',
  'sweep.mutesOver': lines(
    'Temporary mutes timed out and were restored. The sweep was ended; what was kept stays.',
  ),
  'sweep.ended': 'The sweep was ended. What was kept before stays.',
  'sweep.allFresh': 'Every cell has a fresh sweep already.',
  'sweep.failed': '{cell}: {why}',
  'sweep.someSwept': lines(
    '{swept} of {cells, plural, one {# cell was} other {# cells were}} swept. {first}',
    '{more, plural, =0 {} other { (and # more)}}',
  ),
  'sweep.allSwept': '{cells, plural, one {The cell was swept.} other {All # cells were swept.}}',
  'sweep.restored': 'Mutes and connections are as they were before the sweeps.',
  'sweep.gaps':
    'The machine left {gaps, plural, one {# gap} other {# gaps}} in the recording. Nothing was kept: do it again.',
  'sweep.twice': 'The machine recorded the same samples twice. Nothing was kept: do it again.',
  'sweep.late': lines(
    'The microphone hears the sweep so late that its end is missing, by {seconds} s. ',
    'Nothing was kept: record a longer tail.',
  ),
  'sweep.jumps': lines(
    'The microphone’s recording jumps {at} s after its start, at about {frequency} Hz: samples are missing there or ',
    'came twice, or something clicked on its line. Nothing was kept: do it again, with less else going on.',
  ),
  'sweep.leftOut': lines(
    'Above {frequency} Hz the sound arrives {shift} ms {direction} than below, all at once: the machine left out a ',
    'part of the microphone’s recording, or took it twice. Nothing was kept: do it again, with less else going on.',
  ),
  'sweep.notHeld': lines(
    'The reference does not hold the announced sweep ({low} Hz to {high} Hz in {seconds} s): another signal plays, or ',
    'a sweep of another length. Nothing was kept: do it again.',
  ),
  'sweep.startMissing': 'The recording begins after the sweep did. Nothing was kept: do it again.',
  'sweep.endMissing': 'The sweep ends before it is over. Nothing was kept: do it again.',
  'sweep.broken': lines(
    'The sweep is broken near {frequency} Hz: samples were dropped or repeated there, or another signal plays. ',
    'Nothing was kept: do it again.',
  ),
  'sweep.busy': 'The computer was too busy to record the sweep without a gap. Nothing was kept: do it again.',
  'sweep.referenceSilent': 'The reference stayed silent during the sweep. Is it wired to the right channel?',
  'sweep.twoSpeeds': lines(
    'Microphone and reference run at different speeds, by about {percent} %: the higher a tone, the {direction} it ',
    'seems to arrive. Phase, arrival and response are not to be trusted; use one device for both.',
  ),
  'sweep.noTail':
    'The recording ends with the sweep: what the room does after it is not there. Record a longer tail.',
  'sweep.noSilence': 'There is no silence before the sweep, so its noise is not known: record 0.5 s of it.',
  'analysis.noChannel':
    'The recording has {channels, plural, one {# channel} other {# channels}}; there is no channel {channel}.',
  'analysis.tooLong': 'The recording lasts {seconds} s; at most {most} s are analysed in one piece. Cut it.',
  'analysis.seconds': 'This takes longer than {seconds} s. Ask for less, or cut the recording.',
  'analysis.memory': 'This takes more memory than one analysis may use. Ask for less.',
  'analysis.waiting': '{count} analyses are waiting already; ask again in {seconds} s.',
  'analysis.ownWaiting': '{count} analyses from here are waiting already; ask again in {seconds} s.',
  'analysis.noSpeechIndex': 'No speech transmission index: one of its octaves does not show a decay.',
  'analysis.sameChannel': 'Microphone and reference are the same channel: the result would be a flat line.',
  'measuring.theResponseIsOnly': lines(
    'The response is only {lasts} s long: a decay of about {time} s reads up to 10 % short in it. Take a longer ',
    'block, or sweep.',
  ),
  'measuring.bandwidthTimesDecayIs':
    'Bandwidth times decay is {width}, under {leastBandTime}: the band’s own filter takes part in the times.',
  'measuring.theDecayIsBent': 'The decay is bent: T30 is {curvature} % off T20.',
  'measuring.theResponseEndsBefore':
    'The response ends before it has decayed enough for any figure: record a longer tail.',
  'measuring.theResponseEndsBeforeIts':
    'The response ends before its decay does: record a longer tail for the missing figures.',
  'measuring.thisResponseEndsBefore':
    'This response ends before it has decayed: record a longer tail, or choose a longer block.',
  'measuring.nothingDecaysHereThe': lines(
    'Nothing decays here: the response stands out of its noise by less than 20 dB in every band. Sweep, closer to ',
    'the source or with less noise in the room.',
  ),
  'measuring.kovrinsOwnNoiseIs': 'Kovrin’s own noise is no microphone. Pick an input.',
  'measuring.microphoneAndReferenceAre':
    'Microphone and reference are the same channel: the result would be a flat line. Pick two.',
  'measuring.itsPositionIsNo': 'Its position is no longer in the plan. Pick another.',
  'measuring.thisIsTheSame': 'This is the same measurement as one above it: it would show the same trace twice.',
  'measuring.thisMicrophoneStandsAt': 'This microphone stands at another position already: it cannot be at two.',
  'window.hann': 'Hann',
  'window.blackmanHarris': 'Blackman-Harris',
  'window.rectangular': 'None (matched noise only)',
} as const
