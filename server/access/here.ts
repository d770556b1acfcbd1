import type { H3Event } from 'h3'
import { message } from '../../core/words'
import { refused } from '../utils/refused'

/** 127.0.0.0/8 and ::1, also as IPv6 writes the former. */
const isLoopback = (address: string | undefined) =>
  address === '::1' || /^(?:::ffff:)?127\./.test(address ?? '')

/** Throws 403 unless whoever asks sits at this machine. */
export function atThisMachine(event: H3Event, what: string) {
  if (isLoopback(event.node.req.socket.remoteAddress)) return
  throw refused(403, message('http.onlyHere', { what }))
}
