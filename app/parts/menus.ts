/** One thing that can be done from a menu. */
export interface MenuAction {
  name: string
  run: () => void
  disabled?: boolean
}
