<script setup lang="ts">
import Menu from 'primevue/menu'
import { onLongPress, useEventListener } from '@vueuse/core'
import type { MenuAction } from './menus'
import { giveBack } from './giveBack'
import { useStayOpen } from './useStayOpen'

/**
 * What can be done with a thing, where it is: by the second mouse button, by the menu key, or by a long press of a
 * finger. `actionsOf` says what there is to do with what was pressed; none: nothing opens.
 */
const props = defineProps<{ name: string, actionsOf: (pressed: Element) => readonly MenuAction[] }>()
const menu = ref<InstanceType<typeof Menu> | null>(null)
const around = useTemplateRef<HTMLElement>('around')
const actions = shallowRef<readonly MenuAction[]>([])
const items = computed(() =>
  actions.value.map(a => ({ label: a.name, disabled: a.disabled ?? false, command: a.run })))
const stay = useStayOpen(menu)
let opener: HTMLElement | undefined
function hidden() {
  stay.hidden()
  giveBack(opener, '.p-menu')
}
function open(event: Event) {
  const pressed = event.target as HTMLElement
  const all = props.actionsOf(pressed)
  if (!all.length) return
  event.preventDefault()
  const anchor = pressed.closest<HTMLElement>('button, li') ?? pressed
  opener = anchor
  actions.value = all
  // beside what was pressed, not under the finger
  const at: Pick<Event, 'currentTarget'> = { currentTarget: anchor }
  menu.value?.show(at as Event, anchor)
}
/** The click that ends a long press is not one. */
let pressed = false
onLongPress(around, (event) => {
  if (event.pointerType === 'mouse') return
  pressed = true
  open(event)
}, { delay: 500, distanceThreshold: 12 })
useEventListener(around, 'click', (event) => {
  if (pressed) {
    event.preventDefault()
    event.stopPropagation()
  }
  pressed = false
}, { capture: true })
useEventListener(around, 'pointerdown', () => (pressed = false), { capture: true })
</script>

<template>
  <div
    ref="around"
    @contextmenu="open"
  >
    <slot />
    <Menu
      ref="menu"
      :model="items"
      popup
      :pt="{ root: { 'role': 'region', 'aria-label': name }, list: { 'aria-label': name } }"
      @show="stay.shown"
      @hide="hidden"
    />
  </div>
</template>

<style scoped>
div {
  -webkit-touch-callout: none;
}
</style>
