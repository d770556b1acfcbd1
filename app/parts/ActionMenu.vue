<script setup lang="ts">
import Button from 'primevue/button'
import Menu from 'primevue/menu'
import type { MenuAction } from './menus'
import { giveBack } from './giveBack'
import { useStayOpen } from './useStayOpen'

/** A button that opens a list of things to do. */
defineProps<{ label: string, actions: readonly MenuAction[], name?: string, title?: string, disabled?: boolean }>()
const menu = ref<InstanceType<typeof Menu> | null>(null)
const button = ref<{ $el: HTMLElement } | null>(null)
const open = ref(false)
const stay = useStayOpen(menu)
function shown() {
  open.value = true
  stay.shown()
}
function hidden() {
  open.value = false
  stay.hidden()
  giveBack(button.value?.$el, '.p-menu')
}
const items = (actions: readonly MenuAction[]) =>
  actions.map(a => ({ label: a.name, disabled: a.disabled ?? false, command: a.run }))
</script>

<template>
  <Button
    ref="button"
    size="small"
    severity="secondary"
    icon="pi pi-chevron-down"
    icon-pos="right"
    :label="label"
    :aria-label="name ?? label"
    aria-haspopup="menu"
    :aria-expanded="open"
    :title="title"
    :disabled="disabled"
    @click="menu?.toggle($event)"
  />
  <Menu
    ref="menu"
    :model="items(actions)"
    popup
    :pt="{ root: { 'role': 'region', 'aria-label': name ?? label }, list: { 'aria-label': name ?? label } }"
    @show="shown"
    @hide="hidden"
  />
</template>
