import { message, Refusal } from '../../words'

/** What became of a command (AES70-2018, OcaStatus). */
export const ocaStatus = {
  ok: 0, protocolVersion: 1, deviceError: 2, locked: 3, badFormat: 4, badObject: 5, parameter: 6, outOfRange: 7,
  notImplemented: 8, invalidRequest: 9, failed: 10, badMethod: 11, partly: 12, timeout: 13, overflow: 14,
} as const

const words = {
  [ocaStatus.deviceError]: 'oca.deviceError',
  [ocaStatus.locked]: 'oca.locked',
  [ocaStatus.parameter]: 'oca.parameter',
  [ocaStatus.outOfRange]: 'oca.outOfRange',
  [ocaStatus.notImplemented]: 'oca.notImplemented',
  [ocaStatus.failed]: 'oca.failed',
} as const

/** A command that a device refused, with its status. */
export class OcaRefused extends Refusal {
  constructor(readonly status: number) {
    const code = words[status as keyof typeof words]
    super(code ? message(code) : message('oca.status', { status }))
  }
}
