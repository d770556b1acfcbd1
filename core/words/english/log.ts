import { lines } from './lines'

export const log = {
  'log.site.created': 'Created the site “{name}”.',
  'log.site.demo': 'Set up the demo site.',
  'log.take.saved': 'Saved the take “{name}”.',
  'log.device.online': '{device} is connected and in sync.',
  'log.device.offline': '{device} is offline: {why}.',
  'log.device.confirmed': 'Confirmed the address {address} of {device}.',
  'log.device.controlled': 'Took control of {device} from “{site}”.',
  'log.device.swapped': 'Another unit answers for {device} now: what was set here stays, and differs from it.',
  'log.device.stored': '{device}: its settings of now are kept as the preset “{preset}”.',
  'log.device.recalled': '{device}: recalled the preset “{preset}”.',
  'log.device.renamed': '{device}: the preset “{from}” is called “{to}” now.',
  'log.device.cleared': '{device}: removed the preset “{preset}”.',
  'log.device.front.open': '{device}: its front panel is open.',
  'log.device.front.levels': '{device}: its front panel lets only levels and mutes be turned.',
  'log.device.front.locked': '{device}: its front panel is locked.',
  'log.device.named': '{device} is called “{name}” by itself now.',
  'log.temporary.over': lines(
    '{what} is over: {restored, plural, one {# setting} other {# settings}} restored',
    '{left, plural, =0 {} one {; # changed meanwhile and left} other {; # changed meanwhile and left}}',
    '{waiting, plural, =0 {} one {; # follows when its device is back} ',
    'other {; # follow when their devices are back}}.',
  ),
} as const
