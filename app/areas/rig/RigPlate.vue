<script setup lang="ts">
import { freeNames, parameterName, showParameter } from '~~/core/rig'
import type { Device } from '~~/core/documents'
import { useDrafts } from '~/document/drafts'
import { useRig } from '~/document/useRig'
import AddDevices from './AddDevices.vue'
import CablePanel from './CablePanel.vue'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import type { MenuAction } from '~/parts/menus'
import { phrase } from '~/parts/phrase'
import { linkWords } from '~/document/linkWords'

const site = useSite()
const drafts = useDrafts()
const rig = useRig()
const view = useView()
/** Unsent values that a row of the list tells; its page tells all. */
const mostListed = 4
const adding = ref(false)
const leaving = shallowRef<Device | null>(null)
async function removeIt() {
  const device = leaving.value!
  leaving.value = null
  await rig.remove(device)
}
const replacing = shallowRef<Device | null>(null)
const spareAt = ref('')
async function replaceIt() {
  const device = replacing.value!
  replacing.value = null
  await rig.setAddress(device.id, spareAt.value.trim())
  spareAt.value = ''
}
const actionsOf = (d: Device): MenuAction[] => [
  {
    name: phrase('common.duplicate'),
    run: () => void rig.duplicate(d, freeNames(d.name, 1, site.devices.map(other => other.name))[0]!),
  },
  { name: phrase('rig.replace'), run: () => void (replacing.value = d) },
  { name: phrase('rig.removeDots'), run: () => void (leaving.value = d) },
]
const find = ref('')
/** So many devices that one looks for them rather than at them. */
const many = 8
const isFound = (d: Device) => [d.name, d.capability.model, d.address]
  .some(text => text.toLowerCase().includes(find.value.trim().toLowerCase()))
const rows = computed(() =>
  site.devices.filter(isFound).map(d => ({ d, link: site.linkOf(d.id), unsent: site.unsent[d.id] ?? [] })),
)
const columns = [
  { id: 'device', name: phrase('common.device') },
  { id: 'link', name: phrase('rig.connection') },
  { id: 'what', name: phrase('rig.whatItIs') },
  { id: 'unsent', name: phrase('rig.unsentEdits') },
]
</script>

<template>
  <section
    class="plate sheet"
    tabindex="0"
    :aria-label="phrase('common.plate')"
  >
    <div class="row apart">
      <h2>{{ phrase('common.devices') }}</h2>
      <ActionButton
        size="small"
        icon="pi pi-plus"
        :label="phrase('rig.addDevices')"
        @click="adding = true"
      />
    </div>
    <AddDevices
      :open="adding"
      @close="adding = false"
    />
    <FindField
      v-if="site.devices.length > many"
      v-model:value="find"
      beside
      :label="phrase('rig.find')"
      :placeholder="phrase('rig.find')"
    />
    <p
      v-if="!rows.length"
      class="soft"
    >
      {{ phrase(site.devices.length ? 'rig.noneFound' : 'rig.noDevice') }}
    </p>
    <FigureTable
      v-else
      :label="phrase('common.devices')"
      :rows="rows"
      :columns="columns"
      :row-key="r => r.d.id"
      :row-attributes="r => ({ 'data-device': r.d.id, 'data-link': r.link.state })"
    >
      <template #device="{ row: r }">
        <TextField
          layout="bare"
          :label="phrase('rig.nameOfDevice', { device: r.d.name })"
          :value="r.d.name"
          :maxlength="80"
          @change="rig.rename(r.d.id, $event)"
        />
        <span class="soft small">{{ r.d.capability.model }}</span>
        <TextField
          v-if="!r.d.address.startsWith('standin:')"
          layout="bare"
          :label="phrase('rig.addressOf', { device: r.d.name })"
          :placeholder="phrase('rig.notConnectedYet')"
          :value="r.d.address"
          :maxlength="200"
          @change="rig.setAddress(r.d.id, $event.trim())"
        />
        <div>
          <ActionMenu
            :label="phrase('rig.more')"
            :name="phrase('rig.moreOf', { device: r.d.name })"
            :actions="actionsOf(r.d)"
          />
        </div>
      </template>
      <template #link="{ row: r }">
        <div :class="r.link.state">
          <i
            class="pi"
            :class="r.link.state === 'live' ? 'pi-check-circle' : 'pi-exclamation-triangle'"
          />
          {{ r.d.address ? phrase(linkWords[r.link.state]) : phrase('rig.notConnectedYet') }}<br>
          <span class="soft small">{{
            r.link.why ?? phrase('rig.since', { time: new Date(r.link.since).toLocaleTimeString() })
          }}</span>
          <ActionButton
            v-if="r.link.state === 'elsewhere'"
            size="small"
            severity="secondary"
            :label="phrase('rig.takeControl')"
            @click="site.takeOver(r.d.id)"
          />
          <ActionButton
            v-if="r.link.state === 'unconfirmed' && r.d.address.includes(':')"
            size="small"
            severity="secondary"
            :label="phrase('rig.connectTo', { address: r.d.address })"
            @click="site.confirmAddress(r.d.id)"
          />
          <p
            v-for="m in r.link.misfits"
            :key="m"
            class="sentence warn"
          >
            {{ m }}
          </p>
        </div>
      </template>
      <template #what="{ row: r }">
        <ActionButton
          size="small"
          text
          icon="pi pi-sliders-h"
          :label="phrase('rig.channels')"
          :aria-label="phrase('rig.openDevice', { device: r.d.name })"
          @click="view.openDevice(r.d.id)"
        /><br>
        {{
          phrase('rig.inOutKhz', {
            inputs: r.d.capability.inputs.length,
            outputs: r.d.capability.outputs.length,
            sampleRate: r.d.capability.sampleRate / 1000,
          })
        }}<br>
        <span class="soft small">{{
          phrase('rig.msThroughIt', {
            latency: (r.d.capability.latency * 1000).toFixed(1),
          })
        }}</span>
      </template>
      <template #unsent="{ row: r }">
        <span
          v-if="!r.unsent.length"
          class="soft"
        >{{ phrase('common.none') }}</span>
        <div
          v-for="u in r.unsent.slice(0, mostListed)"
          :key="u.path"
          class="small"
        >
          {{ parameterName(r.d.capability, u.path) }}:
          <s class="soft">{{ showParameter(r.d.capability, u.path, u.from) }}</s> →
          <b>{{ showParameter(r.d.capability, u.path, u.to) }}</b><span
            v-if="drafts.byOf(r.d.id, u.path)"
            class="soft"
          >{{ phrase('rig.by', { who: drafts.byOf(r.d.id, u.path) ?? '' }) }}</span>
        </div>
        <span
          v-if="r.unsent.length > mostListed"
          class="soft small"
        >{{ phrase('rig.moreUnsent', { count: r.unsent.length - mostListed }) }}</span>
        <ActionButton
          v-if="r.unsent.length"
          size="small"
          text
          :label="phrase('rig.compare')"
          :aria-label="phrase('rig.compareWith', { device: r.d.name })"
          @click="view.openDevice(r.d.id)"
        />
      </template>
    </FigureTable>
    <AskDialog
      :open="leaving !== null"
      :title="phrase('rig.removeIt', { device: leaving?.name ?? '' })"
      :yes="phrase('common.remove')"
      @yes="removeIt"
      @close="leaving = null"
    >
      <p>{{ phrase('rig.goesWith') }}</p>
    </AskDialog>
    <ModalDialog
      :open="replacing !== null"
      :title="phrase('rig.replaceIt', { device: replacing?.name ?? '' })"
      @close="replacing = null"
    >
      <p>{{ phrase('rig.replaceWhy') }}</p>
      <TextField
        v-model:value="spareAt"
        :label="phrase('rig.spareAt')"
        placeholder="10.0.0.20:65000"
        :maxlength="200"
      />
      <template #footer>
        <ActionButton
          severity="secondary"
          :label="phrase('common.cancel')"
          @click="replacing = null"
        />
        <ActionButton
          :label="phrase('rig.replaceYes')"
          :disabled="!spareAt.trim()"
          @click="replaceIt"
        />
      </template>
    </ModalDialog>
    <div
      v-if="site.unsentCount"
      class="row"
    >
      <ActionButton
        :label="phrase('common.sendAll')"
        @click="drafts.sendAll()"
      /><ActionButton
        :label="phrase('rig.discardAllDrafts')"
        severity="secondary"
        @click="drafts.dropAll()"
      />
    </div>
    <CablePanel v-if="site.devices.length" />
  </section>
</template>

<style scoped>
.live {
  color: var(--good);
}
.lost,
.elsewhere,
.unconfirmed,
.searching {
  color: var(--warn);
}
</style>
