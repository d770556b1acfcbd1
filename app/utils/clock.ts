/** A moment as a clock on the wall shows it: '21:04'. */
export const clockOf = (at: string): string =>
  new Date(at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit', hour12: false })
