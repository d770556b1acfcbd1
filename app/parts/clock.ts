const clock = new Intl.DateTimeFormat([], { hour: '2-digit', minute: '2-digit', hour12: false })
/** Names of takes are made with every picture, and a formatter is slow. */
const told = new Map<string, string>()

/** A moment as a clock on the wall shows it: '21:04'. */
export function clockOf(at: string): string {
  const known = told.get(at)
  if (known !== undefined) return known
  const text = clock.format(new Date(at))
  told.set(at, text)
  return text
}
