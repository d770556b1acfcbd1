import type { IncomingMessage } from 'node:http'
import type { H3Event } from 'h3'
import { asker, askerOf, isNobody } from './sessions'

/** What several askers use together: none may have more than its share, and all together no more than there is. */
export class Shares {
  private readonly used = new Map<string, number>()
  private all = 0

  constructor(readonly each: number, readonly most: number) {}

  /** True when `who` has that much more now; otherwise nothing is taken. */
  take(who: string, amount: number): boolean {
    const own = (this.used.get(who) ?? 0) + amount
    if (own > this.each || this.all + amount > this.most) return false
    this.used.set(who, own)
    this.all += amount
    return true
  }

  give(who: string, amount: number) {
    const own = (this.used.get(who) ?? 0) - amount
    this.all -= amount
    if (own > 0) this.used.set(who, own)
    else this.used.delete(who)
  }
}

const placeOf = (request: IncomingMessage) => `at ${request.socket.remoteAddress ?? 'nowhere'}`

/** Whose share a request counts against: the person of its session; of those without one, where they call from. */
export async function sharer(event: H3Event): Promise<string> {
  const who = await asker(event).catch(() => null)
  return who && !isNobody(who) ? who.person : placeOf(event.node.req)
}

/** In which the way in tells whose share a line counts against; what a caller says there is thrown away. */
export const askerHeader = 'x-kovrin-asker'

/** The same of a request that becomes a line. */
export async function lineSharer(request: IncomingMessage): Promise<string> {
  const token = /(?:^|;\s*)kovrin-session=([^;]+)/.exec(request.headers.cookie ?? '')?.[1]
  const who = await askerOf(token).catch(() => null)
  return who && !isNobody(who) ? who.person : placeOf(request)
}
