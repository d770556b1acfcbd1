import { useEventListener } from '@vueuse/core'
import { areas } from '~/frame/view'

export interface Command {
  id: string
  name: string
  key: string | null
  run: () => void
}

/** Everything that can be done from the keyboard: the palette's list, and the keys themselves. */
export function useCommands() {
  const view = useView()
  const listen = useListen()
  const site = useSite()
  const sweep = useSweep()
  const commands = computed<Command[]>(() => [
    {
      id: 'noise',
      name: listen.noise ? 'Stop noise' : 'Start noise',
      key: 'N',
      run: () => void listen.turnNoise(!listen.noise),
    },
    { id: 'hush', name: 'Hush: silence at once', key: '.', run: () => listen.hush() },
    { id: 'take', name: 'Take: keep this measurement', key: 'T', run: () => listen.take() },
    { id: 'find', name: 'Find arrival', key: 'F', run: () => listen.find() },
    { id: 'restart', name: 'Restart average', key: 'R', run: () => listen.restart() },
    {
      id: 'mode',
      name: site.live ? 'Draft: edits wait until sent' : 'Live hands: edits go to the device',
      key: 'L',
      run: () => {
        site.live = !site.live
      },
    },
    { id: 'undo', name: 'Undo the last change', key: 'Z', run: () => void site.undo() },
    { id: 'redo', name: 'Redo the change', key: 'Y', run: () => void site.redo() },
    { id: 'sweep', name: 'Sweep this cell', key: 'W', run: () => void sweep.one() },
    ...(site.unsentCount
      ? [{ id: 'send', name: `Send ${site.unsentCount} unsent edits`, key: null, run: () => void site.send() }]
      : []),
    {
      id: 'theme',
      name: view.theme === 'day' ? 'Night theme' : 'Day theme',
      key: 'D',
      run: () => view.turnTheme(),
    },
    ...areas
      .filter(a => a.built)
      .map((a, k) => ({
        id: a.id,
        name: `Go to ${a.name}`,
        key: `${k + 1}`,
        run: () => {
          view.area = a.id
        },
      })),
    ...site.sources.flatMap(s =>
      site.positions.map(p => ({
        id: `${s.id}/${p.id}`,
        name: `${s.name} at ${p.name}`,
        key: null,
        run: () => {
          view.cell = { source: s.id, position: p.id }
          view.strip = null
        },
      })),
    ),
  ])

  useEventListener(window, 'keydown', (event: KeyboardEvent) => {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
      event.preventDefault()
      view.palette = !view.palette
      return
    }
    if (event.ctrlKey || event.metaKey || event.altKey || view.palette || event.repeat) return
    const target = event.target as HTMLElement
    const typing = target.closest(
      'input:not([type="checkbox"]):not([type="range"]), textarea, select, [contenteditable]',
    )
    const command = commands.value.find(c => c.key?.toLowerCase() === event.key.toLowerCase())
    if (!command || (typing && command.id !== 'hush') || (typing && target.closest('input'))) return
    event.preventDefault()
    command.run()
  })
  return commands
}
