import { createError, type H3Event } from 'h3'

/** 127.0.0.0/8 and ::1, also as IPv6 writes the former. */
const isLoopback = (address: string | undefined) =>
  address === '::1' || /^(?:::ffff:)?127\./.test(address ?? '')

/** Throws 403 unless whoever asks sits at this machine. */
export function atThisMachine(event: H3Event, what: string) {
  if (isLoopback(event.node.req.socket.remoteAddress)) return
  throw createError({ statusCode: 403, message: `${what} only at the machine on which Kovrin runs.` })
}
