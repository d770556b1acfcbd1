import { lines } from '../lines'

/** Words about sound inputs, signals and takes in the making. */
export const sound = {
  'sound.theComputersDefaultInput': 'The computer’s default input',
  'sound.theBrowserMayNot': lines(
    'The browser may not use the microphone. Allow it (the icon left of the page’s address), then listen again. ',
    'Nothing was lost.',
  ),
  'sound.thisComputerHasNo':
    'This computer has no sound input. Plug one in and listen again, or use the simulated interface.',
  'sound.theInputCannotBe':
    'The input cannot be opened: another program may be using it. Close that program, then listen again.',
  'sound.theChosenInputIs': 'The chosen input is not there. Plug it in, or choose another.',
  'sound.theSoundInputStopped': 'The sound input stopped working inside the browser. Listen again.',
  'sound.theInputCannotBeOpened': 'The input cannot be opened: {message}.',
  'sound.wasUnpluggedMeasurementsAre':
    '“{label}” was unplugged. Measurements are kept; listening resumes when it is back.',
  'sound.interface': 'interface, {at}',
  'sound.block': '1 block',
  'sound.blocks': '{count} blocks',
  'sound.allSinceTheRestart': 'all since the restart',
  'sound.sendItNow': 'Send it now',
  'sound.kovrinsOwnSignal': 'Kovrin’s own signal',
  'sound.aDeviceThatIs': 'a device that is gone',
  'sound.isMeasuring': '{who} is measuring: {what}',
  'sound.isMeasuringAboutLeft': '{who} is measuring: {what}, about {left} left',
  'sound.noiseAtDbfs': 'noise at {level} dBFS',
  'sound.atThePickedCell': 'At the picked cell',
  'sound.threeMicrophones': 'Three microphones',
  'sound.sweepAll': 'Sweep all',
  'sound.keepAnyway': 'Keep anyway',
} as const
