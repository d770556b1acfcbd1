import type { IncomingMessage } from 'node:http'
import { askerOfRequest, isNobody } from './sessions'

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

/** Whose share a request counts against: the person of its session; of those without one, where they call from. */
export async function sharer(request: IncomingMessage): Promise<string> {
  const who = await askerOfRequest(request).catch(() => null)
  return who && !isNobody(who) ? who.person : `at ${request.socket.remoteAddress ?? 'nowhere'}`
}

/** In which the way in tells whose share a line counts against; what a caller says there is thrown away. */
export const askerHeader = 'x-kovrin-asker'
