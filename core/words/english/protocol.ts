/** What is wrong with bytes of the control protocol. */
export const protocol = {
  'ocp1.short': 'The message is cut short: {wanted} bytes are needed, {left} are there.',
  'ocp1.long': 'The message is too long: {left} bytes are left over.',
  'ocp1.noText': 'A text in the message is not UTF-8.',
  'ocp1.many': 'A message holds at most 65,535 of a thing, not {count}.',
  'ocp1.fixed': '{length} bytes are needed here, not {given}.',
  'ocp1.ragged': 'The rows of a table must be of one length.',
  'ocp1.noSync': 'This is no OCP.1: a message begins with 3B, not with the byte {found}.',
  'ocp1.version': 'OCP.1 of version {version} is not known here: only version 1 is.',
  'ocp1.size': 'A size of {size} bytes is not possible.',
  'ocp1.tooLarge': 'A message of {size} bytes is too long: at most {most} are taken.',
  'ocp1.type': 'There is no kind of message {type}.',
  'ocp1.alive': 'A keep-alive message says one interval above 0, in two or four bytes.',
  'ocp1.parameters': '{wanted} parameters are needed here, not {given}.',
} as const
