<script setup lang="ts">
import { compareSettings, showParameter, parametersOf, type Capability, type ComparedSetting } from '~~/core/rig'
import { useSite } from '~/document/site'
import { phrase } from '~/parts/phrase'
import KeepChoice from './KeepChoice.vue'

/** Where a device and this site differ: whose setting stays, for all, for a channel, or one by one. */
const props = defineProps<{ device: string, capability: Capability, connected: boolean }>()
const site = useSite()
const channels = computed(() => {
  const held = site.held(props.device)
  // nothing is known yet of what it holds: there is nothing to differ from
  return held ? compareSettings(props.capability, held, site.draft(props.device)) : []
})
const count = computed(() => channels.value.reduce((sum, c) => sum + c.settings.length, 0))
const pathsOf = (settings: readonly ComparedSetting[]) => settings.map(s => s.path)
const all = computed(() => channels.value.flatMap(c => pathsOf(c.settings)))
const busy = ref(false)
async function keep(whose: 'device' | 'here', paths: readonly string[]) {
  busy.value = true
  try {
    await (whose === 'device' ? site.dropSome(props.device, paths) : site.sendSome(props.device, paths))
  }
  finally { busy.value = false }
}
const shortOf = (path: string) => parametersOf(props.capability).get(path)!.short
const shown = (path: string, value: unknown) => showParameter(props.capability, path, value)
/** The headings stand over the first channel only. */
const columns = (n: number) => [
  { id: 'setting', name: phrase('rig.settingColumn'), silent: n > 0, width: '23%' },
  { id: 'there', name: phrase('rig.inTheDevice'), silent: n > 0, width: '19%' },
  { id: 'here', name: phrase('rig.here'), silent: n > 0 },
  { id: 'keep', name: phrase('rig.keep'), silent: true, width: '232px' },
]
</script>

<template>
  <section
    v-if="count"
    class="differs"
    data-testid="compare"
  >
    <div class="row apart">
      <h2>{{ phrase('rig.differ', { count }) }}</h2>
      <KeepChoice
        :what="phrase('rig.allSettings')"
        :disabled="busy"
        :away="!connected"
        @keep="keep($event, all)"
      />
    </div>
    <p class="soft small">
      {{ phrase('rig.differWhy') }}
    </p>
    <template
      v-for="(c, n) in channels"
      :key="c.id"
    >
      <div class="row apart channel">
        <h3>{{ c.name }}</h3>
        <KeepChoice
          v-if="channels.length > 1 && c.settings.length > 1"
          plain
          :what="c.name"
          :disabled="busy"
          :away="!connected"
          @keep="keep($event, pathsOf(c.settings))"
        />
      </div>
      <FigureTable
        :label="c.name"
        :rows="c.settings"
        :columns="columns(n)"
        :row-key="s => s.path"
        :row-attributes="s => ({ 'data-setting': s.path })"
      >
        <template #setting="{ row: s }">
          {{ shortOf(s.path) }}
        </template>
        <template #there="{ row: s }">
          {{ shown(s.path, s.from) }}
        </template>
        <template #here="{ row: s }">
          <b>{{ shown(s.path, s.to) }}</b>
          <span
            v-if="s.isLouder"
            class="louder"
          >{{ phrase('rig.louder') }}</span>
        </template>
        <template #keep="{ row: s }">
          <KeepChoice
            plain
            :what="shortOf(s.path)"
            :disabled="busy"
            :away="!connected"
            @keep="keep($event, [s.path])"
          />
        </template>
      </FigureTable>
    </template>
  </section>
</template>

<style scoped>
.differs {
  border: 1px dashed var(--warn);
  padding: 0.4rem 0.8rem 0.8rem;
  margin: 0.6rem 0;
}
.channel {
  margin-top: 0.5rem;
}
h3 {
  margin: 0;
  font-size: 0.95rem;
}
p {
  margin: 0;
}
.louder {
  color: var(--warn);
  margin-left: 0.5rem;
  font-size: 0.86rem;
}
</style>
