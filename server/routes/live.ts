import { listen } from '../live/channel'

const ends = new WeakMap<object, () => void>()

/**
 * One WebSocket for a page: /live?site=ID. The server speaks, the page only listens (and sends 'ping' to see
 * whether anyone is there).
 */
export default defineWebSocketHandler({
  upgrade(request) {
    const origin = request.headers.get('origin')
    const host = request.headers.get('host')
    if (origin && new URL(origin).host !== host)
      return new Response('Only pages of this server are told.', { status: 403 })
  },
  open(peer) {
    const site = new URL(peer.request.url, 'http://localhost').searchParams.get('site') ?? ''
    ends.set(
      peer,
      listen(site, event => peer.send(JSON.stringify(event))),
    )
    peer.send(JSON.stringify({ type: 'hello' }))
  },
  message(peer, message) {
    if (message.text() === 'ping') peer.send(JSON.stringify({ type: 'hello' }))
  },
  close(peer) {
    ends.get(peer)?.()
  },
})
