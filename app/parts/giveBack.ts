/** Gives the focus back to what opened a leaf or a menu, unless whoever closed it went somewhere else by it. */
export function giveBack(opener: HTMLElement | undefined, overlay: string) {
  const { activeElement: now } = document
  if (!now || now === document.body || now.closest(overlay)) opener?.focus()
}
