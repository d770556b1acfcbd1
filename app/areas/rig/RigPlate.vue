<script setup lang="ts">
import { parameterName, showParameter } from '~~/core/rig'

const site = useSite()
const words = {
  searching: 'searching',
  reading: 'reading its settings',
  live: 'in step',
  lost: 'lost',
  elsewhere: 'driven by another site',
}
const rows = computed(() =>
  site.devices.map(d => ({ d, link: site.linkOf(d.id), unsent: site.unsent[d.id] ?? [] })),
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
            <Button
              v-if="r.link.state === 'elsewhere'"
              size="small"
              severity="secondary"
              label="Take it over"
              @click="site.takeOver(r.d.id)"
            />
            <p
              v-for="m in r.link.misfits"
              :key="m"
              class="sentence warn"
            >
              {{ m }}
            </p>
          </td>
          <td>
            {{ r.d.capability.inputs.length }} in, {{ r.d.capability.outputs.length }} out,
            {{ r.d.capability.sampleRate / 1000 }} kHz<br>
            <span class="soft small">{{ (r.d.capability.latency * 1000).toFixed(1) }} ms through it</span>
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
              {{ parameterName(r.d.capability, u.path) }}:
              <s class="soft">{{ showParameter(r.d.capability, u.path, u.from) }}</s> →
              <b>{{ showParameter(r.d.capability, u.path, u.to) }}</b>
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
td.elsewhere,
td.searching {
  color: var(--warn);
}
</style>
