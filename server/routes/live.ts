import { askerHeader } from '../access/shares'
import { close, hear, open, sweepLines } from '../live/pages'

/** The socket under the library's peer: it alone knows what was not read. */
interface Socket {
  bufferedAmount: number
}

/** Where the line leads and whose it is; what is no address names nothing. */
function asked(url: string) {
  const { searchParams } = new URL(url, 'http://localhost')
  return { site: searchParams.get('site') ?? '', page: (searchParams.get('page') ?? '').slice(0, 60) }
}

/**
 * One WebSocket for a page: /live?site=ID&page=KEY. It is told changes once it says from which number it follows. Who
 * may come in is settled before (server/entry.ts).
 */
export default defineWebSocketHandler({
  open(peer) {
    const { site, page } = asked(peer.request.url)
    const unread = () => (peer.websocket as Socket).bufferedAmount
    const line = { send: (text: string) => peer.send(text), unread, drop: () => peer.terminate() }
    sweepLines()
    const who = new Headers(peer.request.headers).get(askerHeader) ?? page
    if (!open(peer, site, page, line, who)) peer.close(1013, 'Too many pages are open.')
  },
  message(peer, message) { hear(peer, message.text()) },
  close(peer) { close(peer) },
  error(peer) { close(peer) },
})
