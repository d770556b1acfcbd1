import { lines } from './lines'

/** What a measurement says of itself. */
export const findings = {
  'finding.likely': 'Likely: {what}',
  'finding.mic-clips': 'The microphone clips: turn its gain or the noise down.',
  'finding.mic-flat': lines(
    'The microphone’s signal is cut off at the top before full scale: something in front of the converter clips. ',
    'Turn its preamplifier down.',
  ),
  'finding.ref-clips': 'The reference clips: turn it down.',
  'finding.ref-silent': 'The reference is silent although the noise plays: is the right channel chosen?',
  'finding.mic-quiet': 'Too quiet to trust: {level} at the microphone. Raise its gain by about {gain} dB.',
  'finding.same': 'Microphone and reference carry the same signal: the flat line says nothing of a loudspeaker.',
  'finding.swapped': lines(
    'The microphone is {delay} ahead of the reference: are the two swapped, or is the reference taken after a delay?',
  ),
  'finding.moved-later': 'The arrival is now at {time}, {by} later than is removed: find the arrival again.',
  'finding.moved-earlier': 'The arrival is now at {time}, {by} earlier than is removed: find the arrival again.',
  'finding.polarity': lines(
    'Polarity is inverted somewhere between the reference and the microphone: the source’s own pulse fits inverted.',
  ),
  'finding.drift': lines(
    'Reference and microphone come from different clocks: drift {ppm} ppm, {perMinute} ms a minute. ',
    'It is not taken out; use one device for both to be rid of it.',
  ),
  'finding.drift-compensated': lines(
    'Reference and microphone come from different clocks: drift {ppm} ppm, {perMinute} ms a minute. It is taken out, ',
    'but how long the way is cannot be told; use one device for both to be rid of it.',
  ),
  'finding.later-sound': lines(
    'A later sound is taken for the direct one: the plan has it {time} ({distance} m) earlier, and something arrives ',
    'there. Is a loudspeaker covered, or turned away?',
  ),
  'finding.plan-later': lines(
    'The plan is wrong somewhere: the sound arrives {time} ({distance} m) later than it says. Look where microphone ',
    'and loudspeaker stand, and for a delay that Kovrin does not know.',
  ),
  'finding.plan-earlier': lines(
    'The plan is wrong somewhere: the sound arrives {time} ({distance} m) earlier than it says. Look where microphone ',
    'and loudspeaker stand, and for a delay that Kovrin does not know.',
  ),
  'finding.unfed': '{source} gets no signal. The path ribbon says where {source}’s path ends.',
  'finding.unfed-heard': lines(
    '{source} gets no signal, yet sound arrives: {who} is what is measured. ',
    'The path ribbon says where {source}’s path ends.',
  ),
  'finding.unfed-stray': lines(
    '{source} gets no signal, yet sound arrives: another loudspeaker is what is measured. ',
    'The path ribbon says where {source}’s path ends.',
  ),
  'finding.two': 'A second sound arrives {time} after the first, when {source} would by the plan: is it on as well?',
  'finding.echo': lines(
    'A reflection {time} after the direct sound, {level}: a way {distance} m longer. It makes a comb with dips at ',
    '{dip} and odd multiples, which EQ cannot fill.',
  ),
  'finding.echo-inverted': lines(
    'A reflection {time} after the direct sound, {level}: a way {distance} m longer. It makes a comb with dips at ',
    '{dip} and its multiples, which EQ cannot fill.',
  ),
  'finding.mode': lines(
    '{frequency} rings: it takes {decay} s to fall by 60 dB, the rest about {usual} s. EQ lowers its level there; ',
    'absorption shortens it.',
  ),
  'finding.comb': lines(
    'The same sound is heard twice, {time} apart, the second at {level}: a comb with dips at {dip} and every odd ',
    'multiple. Look for two loudspeakers or two paths with the same signal, or a surface close by.',
  ),
  'finding.comb-inverted': lines(
    'The same sound is heard twice, {time} apart, the second at {level} and inverted: a comb with dips at {dip} and ',
    'every multiple. Look for two loudspeakers or two paths with the same signal, or a surface close by.',
  ),
  'finding.low-arrival': lines(
    'Coherence is low ({coherence} from {low} to {high}) because the wrong arrival is taken out: find it again.',
  ),
  'finding.low-noise': lines(
    'Coherence is low ({coherence} from {low} to {high}) because of noise in the room or on the line. Find what makes ',
    'it; average longer, or measure when it is quiet. Only then play louder.',
  ),
  'finding.low-room': lines(
    'Coherence is low ({coherence} from {low} to {high}) because of reflections: {late} % of the energy comes later ',
    'than 50 ms. Go nearer, or average positions.',
  ),
  'finding.hum': lines(
    'Mains hum at the microphone: {frequencies} Hz stand out and stay. ',
    'Look for a ground loop, or a cable beside a dimmer.',
  ),
  'finding.buzz': lines(
    'Mains buzz at the microphone: {frequencies} Hz stand out and stay. Look for a dimmer or a power supply.',
  ),
  'advice.clips': 'clips: turn it down by 10 dB',
  'advice.nearClipping': 'near clipping: turn it down by {by} dB',
  'advice.silent': 'silent: is it on, and on this channel?',
  'advice.quiet': 'quiet: raise the microphone by {by} dB',
  'finding.silentLevel': 'silent',
} as const
