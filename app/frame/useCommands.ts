import { useEventListener } from '@vueuse/core'
import { chartKindIds, chartKinds } from '~/charts/registry'
import { makings, useComparison, type Making } from '~/charts/comparison'
import type { CommandRow } from '~/areas/area'
import type { AreaId } from '~/document/view'
import { areas, railAreas } from '~/areas/registry'
import { guideFor, guideNames, guideOrder } from './guide'
import { useCharts } from '~/charts/useCharts'
import { useDrafts } from '~/document/drafts'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useKeys, usualKeys } from '~/parts/keys'
import { useFeed } from '~/sound/feed'
import { useListen } from '~/sound/listen'
import { useSweep } from '~/sound/sweepStore'
import { phrase } from '~/parts/phrase'

const cellName = (source: { name: string }, position: { name: string }) =>
  phrase('common.cellAt', { source: source.name, position: position.name })

export interface Command {
  id: string
  name: string
  key: string | null
  run: () => void
  /** It has a key, or may have one. */
  keyed?: boolean
}
type Row = CommandRow

/** The area that is looked at if it shows charts, else Listen. */
const withCharts = ({ area }: { area: AreaId }) => (areas[area].charts ? area : 'listen')

/** What is measured, edited and looked at: the commands that have keys of this user's choice. */
function keyedCommands(): ComputedRef<Row[]> {
  const view = useView()
  const listen = useListen()
  const site = useSite()
  const sweep = useSweep()
  const feed = useFeed()
  const charts = useCharts()
  return computed(() => [
    ['noise', listen.noise
      ? phrase('frame.stopNoise')
      : phrase('frame.startNoise'), () => void listen.turnNoise(!listen.noise)],
    ['hush', phrase('frame.hushSilenceAtOnce'), () => listen.hush()],
    ['take', phrase('frame.takeKeepThisMeasurement'), () => listen.take()],
    ['sweep', sweep.state === 'idle' ? phrase('frame.sweepThisCell') : phrase('frame.stopTheSweep'), () =>
      void (sweep.state === 'idle' ? sweep.one() : sweep.stop())],
    ['find', phrase('frame.findArrival'), () => listen.find()],
    ['restart', phrase('frame.resetAverage'), () => listen.restart()],
    ['only', phrase('frame.feedOnlyThisSource'), () => void feed.only()],
    ['over', view.layingOver ? phrase('frame.pickCellsAgain') : phrase('frame.overlayPickedCellsOn'), () => {
      view.layingOver = !view.layingOver
    }],
    ['mode', site.live ? phrase('frame.draftEditsWaitUntil') : phrase('frame.liveEditsGoTo'), () => {
      site.live = !site.live
    }],
    ['undo', phrase('common.undo'), () => void site.undo()],
    ['redo', phrase('common.redo'), () => void site.redo()],
    ['ledger', view.plate === 'ledger' ? phrase('frame.closeTheLargeLedger') : phrase('frame.ledgerLargeOnThe'), () =>
      view.go(withCharts(view), view.plate === 'ledger' ? null : 'ledger')],
    ['target', charts.settings.showTarget ? phrase('frame.hideTheTarget') : phrase('frame.showTheTarget'), () => {
      charts.settings.showTarget = !charts.settings.showTarget
    }],
    ['theme', view.theme === 'day' ? phrase('common.nightTheme') : phrase('common.dayTheme'), () => view.turnTheme()],
    ['guide', phrase('frame.guideHelpForThis'), () => {
      view.guide = guideFor[view.area]
    }],
    ['keys', phrase('frame.keyboardShortcuts'), () => {
      view.keySheet = true
    }],
    ['palette', phrase('frame.findACommand'), () => {
      view.palette = true
    }],
  ])
}

/** Everything else that can be done from here: found by its words. */
function furtherCommands(): ComputedRef<Row[]> {
  const view = useView()
  const site = useSite()
  const drafts = useDrafts()
  const sweep = useSweep()
  const feed = useFeed()
  const comparison = useComparison()
  const charts = useCharts()
  const toPlate = () => view.go(withCharts(view), null)
  return computed(() => [
    ...(drafts.mine
      ? [
          ['send', phrase('frame.sendYourUnsentEdits', { mine: drafts.mine }), () => void drafts.send()] as Row,
          ['drop', phrase('frame.discardDraftsShowWhat'), () => void drafts.drop()] as Row,
        ]
      : []),
    ['too', phrase('frame.alsoFeedThisSource'), () => void feed.too()],
    ['sweep-all', phrase('frame.sweepAllCellsThat'), () => void sweep.sweepAll()],
    ['import', phrase('frame.importACurveOrWav'), () => {
      document.querySelector<HTMLInputElement>('[data-import] input')?.click()
    }],
    ...guideOrder.map((id): Row => [`guide-${id}`, `Guide: ${guideNames[id]}`, () => {
      view.guide = id
    }]),
    ...(view.overlaid.length ? [['off', phrase('frame.clearOverlay'), () => { view.overlaid = [] }] as Row] : []),
    ...(Object.keys(makings) as Making[]).map((m): Row => [`making-${m}`, `Compare: ${makings[m]}`, () => {
      comparison.making = m
    }]),
    ...chartKindIds.map((k): Row => [`chart-${k}`, phrase('frame.showChart', { name: chartKinds[k].name }), () => {
      toPlate()
      charts.show(k)
    }]),
    ...site.sources.flatMap(s =>
      site.positions.map((p): Row => [`${s.id}/${p.id}`, cellName(s, p), () => {
        view.cell = { source: s.id, position: p.id }
        view.strip = null
      }])),
  ])
}

const fields = 'input:not([type="checkbox"]), textarea, [contenteditable], [role="combobox"][aria-expanded="true"]'

/** Undo and redo as every program of the platform has them. */
function platformCommand({ ctrlKey, metaKey, altKey, shiftKey, key }: KeyboardEvent): 'undo' | 'redo' | null {
  if (altKey || !(ctrlKey || metaKey)) return null
  if (key.toLowerCase() === 'z') return shiftKey ? 'redo' : 'undo'
  return key.toLowerCase() === 'y' && ctrlKey && !shiftKey ? 'redo' : null
}

/** What lies over the page, and is not on its way out. */
const overlays = ['popover', 'dialog', 'drawer', 'menu', 'contextmenu', 'select-overlay']
  .map(part => `.p-${part}:not([class*="leave"])`).join()

/** Escape closes what stands where the charts do; true when there was something. */
function closeTop(view: ReturnType<typeof useView>, target: HTMLElement): boolean {
  if (target.closest(fields) || document.querySelector(overlays)) return false
  if (!areas[view.area].charts || view.plate === null) return false
  view.plate = null
  return true
}

/** Everything that can be done from the keyboard: the palette's list, and the keys themselves. */
export function useCommands() {
  const view = useView()
  const keys = useKeys()
  const keyed = keyedCommands()
  const own = Object.values(areas).flatMap(a => a.commands?.() ?? [])
  const further = furtherCommands()
  const commandOf = ([id, name, run]: Row): Command =>
    ({ id, name, run, key: keys.of(id), keyed: id in usualKeys })
  const commands = computed<Command[]>(() => [
    ...[...keyed.value, ...own.flatMap(rows => rows.value)].map(commandOf),
    ...railAreas
      .flatMap(a => a.area ?? [])
      .map(({ id, name }, k) => ({ id, name: phrase('frame.goTo', {
        name,
      }), key: `${k + 1}`, run: () => view.go(id) })),
    ...further.value.map(commandOf),
  ])

  useEventListener(window, 'keydown', (event: KeyboardEvent) => {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
      event.preventDefault()
      view.palette = !view.palette
      return
    }
    const target = event.target as HTMLElement
    const platform = platformCommand(event)
    // a field that is typed in has an undo of its own
    if (platform && !target.closest(fields) && !target.closest('[role="dialog"]')) {
      event.preventDefault()
      commands.value.find(c => c.id === platform)?.run()
      return
    }
    if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return
    if (event.key === 'Escape' && closeTop(view, target)) return event.preventDefault()
    // whoever types, or picks from an open list or a dialog, is not commanding; silence is always to be had
    const typing = target.closest(fields)
    const inDialog = target.closest('[role="dialog"], [role="listbox"], [role="menu"]')
    const command = commands.value.find(c => c.key?.toLowerCase() === event.key.toLowerCase())
    if (!command || typing || (inDialog && command.id !== 'hush')) return
    event.preventDefault()
    event.stopPropagation()
    command.run()
  }, { capture: true })
  return commands
}
