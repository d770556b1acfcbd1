<script setup lang="ts">
import { parameterName, showParameter } from '~~/core/rig'

const site = useSite()
const words = { searching: 'searching', reading: 'reading its settings', live: 'in step', lost: 'lost' }
const rows = computed(() =>
  site.site!.devices.map(d => ({ d, link: site.site!.links[d.id]!, unsent: site.unsent[d.id] ?? [] })),
)
</script>

<template>
  <section
    class="plate sheet"
    aria-label="Plate"
  >
    <h2>Devices</h2>
    <table class="plain">
      <thead>
        <tr>
          <th>Device</th>
          <th>Connection</th>
          <th>What it is</th>
          <th>Unsent edits</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="r in rows"
          :key="r.d.id"
          :data-device="r.d.id"
          :data-link="r.link.state"
        >
          <td>
            <b>{{ r.d.name }}</b><br><span class="soft small">{{ r.d.capability.model }}</span>
          </td>
          <td :class="r.link.state">
            <i
              class="pi"
              :class="r.link.state === 'live' ? 'pi-check-circle' : 'pi-exclamation-triangle'"
            />
            {{ words[r.link.state] }}<br><span class="soft small">{{
              r.link.why ?? `since ${new Date(r.link.since).toLocaleTimeString()}`
            }}</span>
          </td>
          <td>
            {{ r.d.capability.inputs.count }} in, {{ r.d.capability.outputs.count }} out,
            {{ r.d.capability.sampleRate / 1000 }} kHz<br><span class="soft small">{{ (r.d.capability.latency * 1000).toFixed(1) }} ms through it</span>
          </td>
          <td>
            <span
              v-if="!r.unsent.length"
              class="soft"
            >none</span>
            <div
              v-for="u in r.unsent"
              :key="u.path"
              class="small"
            >
              {{ parameterName(u.path) }}: <s class="soft">{{ showParameter(u.path, u.from) }}</s> →
              <b>{{ showParameter(u.path, u.to) }}</b>
            </div>
          </td>
        </tr>
      </tbody>
    </table>
    <div
      v-if="site.unsentCount"
      class="row"
    >
      <Button
        label="Send all"
        @click="site.send()"
      /><Button
        label="Drop drafts"
        severity="secondary"
        @click="site.drop()"
      />
    </div>
  </section>
</template>

<style scoped>
td.live {
  color: var(--good);
}
td.lost,
td.searching {
  color: var(--warn);
}
</style>
