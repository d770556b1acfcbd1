<script setup lang="ts">
import { frontLevels, type FrontLevel, type Housekeeping } from '~~/core/rig'
import { useSite } from '~/document/site'
import { phrase } from '~/parts/phrase'

/** What a device does at its front: it shows itself, has a name of its own, lets hands turn it or not. */
const props = defineProps<{ device: string, state: Housekeeping, connected: boolean }>()
const site = useSite()
const words = { open: phrase('rig.frontOpen'), levels: phrase('rig.frontLevels'), locked: phrase('rig.frontLocked') }
const levels = frontLevels.map(value => ({ value, label: words[value] }))
const front = (level: FrontLevel) => site.act(props.device, { act: 'front', front: level })
</script>

<template>
  <div
    v-if="connected"
    class="row front"
    data-testid="front"
  >
    <ActionButton
      v-if="state.identifying !== null"
      :icon="state.identifying ? 'pi pi-lightbulb' : 'pi pi-eye'"
      :severity="state.identifying ? 'warn' : 'secondary'"
      :label="phrase(state.identifying ? 'rig.stopShowing' : 'rig.showItself')"
      @click="site.act(device, { act: 'identify', on: !state.identifying })"
    />
    <TextField
      v-if="state.name !== null"
      :label="phrase('rig.nameInIt')"
      :value="state.name"
      :maxlength="80"
      @change="site.act(device, { act: 'name', name: $event })"
    />
    <SegmentField
      v-if="state.front !== null"
      :label="phrase('rig.front')"
      :value="state.front"
      :options="levels"
      @change="front"
    />
  </div>
</template>

<style scoped>
.front {
  align-items: end;
  gap: 1rem;
  flex-wrap: wrap;
  margin: 0.4rem 0 0.8rem;
}
</style>
