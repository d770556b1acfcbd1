<script setup lang="ts">
import { message } from '~~/core/words'
import { readFilters, writeBiquads, writeFilters } from '~~/core/formats/filterText'
import type { Filter } from '~~/core/dsp'
import { cookbookQ, deviceQ, type Band } from '~~/core/rig'
import { download } from '~/parts/download'
import type { MenuAction } from '~/parts/menus'
import type { SettingOf } from '~/document/useStrip'
import { useHearing } from './hearing'
import { useShaping } from '~/document/shaping'
import { useStates } from './states'
import { useSite } from '~/document/site'
import { useKeys } from '~/parts/keys'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

/** What is done with all filters of a strip at once: a new one, none, copied to any other strip, as text. */
const props = defineProps<{ bands: readonly SettingOf<'band'>[], device: string, rate: number, name: string }>()
const site = useSite()
const notices = useNotices()
const shaping = useShaping()
const keys = useKeys()
const states = useStates()
const hearing = useHearing()
const bandOf = (s: SettingOf<'band'>) => s.draft
const capabilityOf = (s: SettingOf<'band'>) => s.parameter.capability
const free = computed(() => props.bands.find(s => !bandOf(s).on))
const list = (): Filter[] =>
  props.bands.filter(s => bandOf(s).on).map((s) => {
    const { type, frequency, gain, q } = bandOf(s)
    return { kind: type, frequency, gain, q: type === 'peaking' ? cookbookQ(q, gain, capabilityOf(s)) : q }
  })

/** In from the start, at 0 dB, and in hand. */
async function add() {
  const s = free.value!
  if (await site.edit(props.device, s.parameter.path, { ...bandOf(s), on: true, gain: 0 }))
    shaping.picked = s.parameter.path
}
const setAll = (make: (s: SettingOf<'band'>, n: number) => Band) =>
  site.editAll(props.bands.map((s, n) => ({ device: props.device, path: s.parameter.path, value: make(s, n) })))

async function copy() {
  try {
    await navigator.clipboard.writeText(writeFilters(list()))
    notices.say('info', message('clipboard.copied', { strip: props.name, filters: list().length }))
  }
  catch { notices.say('error', message('clipboard.noWrite')) }
}
async function put(filters: readonly Filter[]) {
  if (filters.length > props.bands.length)
    throw new RangeError(
      phrase('shape.filterDoNotFit', { filters: filters.length, name: props.name, bands: props.bands.length }))
  await setAll((s, n) => {
    const f = filters[n]
    if (!f) return { ...bandOf(s), on: false }
    const q = f.kind === 'peaking' ? deviceQ(f.q, f.gain, capabilityOf(s)) : f.q
    return { on: true, type: f.kind, frequency: f.frequency, gain: f.gain, q }
  })
}
/** Puts in what is on the clipboard; swapped: what was here goes there. */
async function paste(swaps = false) {
  let text: string
  try {
    text = await navigator.clipboard.readText()
  }
  catch { return notices.say('error', message('clipboard.noRead')) }
  try {
    const before = writeFilters(list())
    await put(readFilters(text))
    if (swaps) await navigator.clipboard.writeText(before)
  }
  catch (error) { notices.fail(error) }
}
/** Cuts become boosts and boosts cuts. */
const mirror = () => setAll(s => ({ ...bandOf(s), gain: -bandOf(s).gain }))
async function read(file: File | undefined) {
  if (!file) return
  try {
    await put(readFilters(await file.text()))
  }
  catch (error) { notices.fail(error) }
}
const save = (signs: 'plus' | 'minus') =>
  download(`${props.name}, ${props.rate} Hz.csv`, writeBiquads(list(), props.rate, signs), 'text/csv')

const fileField = useTemplateRef('file')
const held = computed(() => props.bands.find(s => s.parameter.path === shaping.picked && bandOf(s).on))
const actions = computed<MenuAction[]>(() => {
  const inHand = hearing.can && held.value !== undefined
  const none = !props.bands.some(s => bandOf(s).on)
  return [
    { name: phrase('shape.newFilter'), run: () => void add(), disabled: !free.value },
    { name: phrase('shape.copyAllAsText'), run: () => void copy(), disabled: none },
    { name: phrase('shape.pasteFilters'), run: () => void paste() },
    { name: phrase('shape.swapWithTheClipboard'), run: () => void paste(true) },
    { name: phrase('shape.readFromAFile'), run: () => fileField.value?.querySelector('input')?.click() },
    { name: phrase('shape.invertGains'), run: () => void mirror(), disabled: none },
    { name: states.has
      ? `A/B${keys.sign(phrase('shape.other'))}`
      : phrase('shape.storeB', { sign: keys.sign('other') }),
    run: () => void states.swap() },
    ...(states.has ? [{ name: phrase('shape.clearB'), run: () => states.forget() }] : []),
    { name: phrase('shape.bypassSelected'), run: () => void hearing.without(), disabled: !inHand },
    { name: phrase('shape.soloSelected'), run: () => void hearing.alone(), disabled: !inHand },
    { name: phrase('shape.bypassAll'), run: () => void hearing.withoutAll(), disabled: !hearing.can || none },
    {
      name: phrase('shape.clearAllFilters'),
      run: () => void setAll(s => ({ ...bandOf(s), on: false })),
      disabled: none,
    },
    { name: phrase('shape.coefficientsFeedbackAsA1'), run: () => save('plus'), disabled: none },
    { name: phrase('shape.coefficientsFeedbackAdded'), run: () => save('minus'), disabled: none },
  ]
})
</script>

<template>
  <ActionMenu
    :label="phrase('common.filters')"
    :actions="actions"
  />
  <span
    ref="file"
    class="unseen"
    data-testid="filter-file"
  >
    <FileField
      :label="phrase('shape.aListOfFilters')"
      accept=".txt,.csv"
      @pick="read($event[0])"
    />
  </span>
</template>

<style scoped>
.unseen {
  display: none;
}
</style>
