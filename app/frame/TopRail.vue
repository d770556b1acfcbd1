<script setup lang="ts">
import { railAreas } from '~/areas/registry'
import { useView, type AreaId } from '~/document/view'
import { useDrafts } from '~/document/drafts'
import { useSite } from '~/document/site'
import { useSteps } from '~/document/steps'
import { useKeys } from '~/parts/keys'
import { useHall } from '~/sound/hall'
import { useSets } from '~/sound/sets'
import { useListen } from '~/sound/listen'
import { useSweep } from '~/sound/sweepStore'
import { phrase } from '~/parts/phrase'
import { linkWords } from '~/document/linkWords'
import { connectionsOf, type Connections } from '~~/core/documents'

const site = useSite()
const view = useView()
const keys = useKeys()
const listen = useListen()
const sweep = useSweep()
const hall = useHall()
const sets = useSets()
const steps = useSteps()
const drafts = useDrafts()
steps.follow()
/** Where the run sheet was opened from. */
const before = ref<AreaId>('listen')
watch(() => view.area, (_, was) => {
  if (was !== 'run') before.value = was
})
const turnRunSheet = () => view.go(view.area === 'run' ? before.value : 'run')

/** What sounds, or may: Kovrin's own noise or sweep, the simulated console, or a signal that came from elsewhere. */
const sounding = computed(() => {
  const loud = listen.running && listen.levels.reference.rms > -60
  if (listen.taken) return listen.taken
  if (sweep.state === 'sweeping') return phrase('common.sweep')
  if (listen.noise) return phrase('frame.noiseDbfs', { level: `${listen.noiseLevel}`.replace('-', '−') })
  if (listen.running && sets.facts.simulated && hall.programme) return phrase('frame.consoleMusic')
  return loud ? phrase('frame.signalFromElsewhere') : null
})
const connections = computed(() => connectionsOf(site.devices, id => site.linkOf(id).state))
function said(told: Connections): { text: string, tone: 'good' | 'warn' } {
  switch (told.state) {
    case 'none': return { text: phrase('common.noDevices'), tone: 'good' }
    case 'unplaced': return { text: phrase('frame.noDeviceConnected'), tone: 'good' }
    case 'in-step': return { text: phrase('frame.ofDevicesInSync', { all: told.all }), tone: 'good' }
    case 'several':
      return { text: phrase('frame.ofDevicesNotConnected', { lost: told.lost, all: told.all }), tone: 'warn' }
    case 'one':
      return {
        text: phrase('frame.deviceIs', { device: told.device, state: phrase(linkWords[told.link]) }), tone: 'warn',
      }
  }
}
const devices = computed(() =>
  (site.connected ? said(connections.value) : { text: phrase('frame.serverLost'), tone: 'error' }))
</script>

<template>
  <header class="rail">
    <NuxtLink
      to="/"
      class="brand"
      :title="phrase('frame.allSites')"
    >{{ phrase('common.kovrin') }}</NuxtLink>
    <h1 class="site">
      {{ site.name }}
    </h1>
    <nav :aria-label="phrase('frame.areas')">
      <button
        v-for="a in railAreas"
        :key="a.id"
        class="plain area"
        :class="{ on: view.area === a.id }"
        :disabled="!a.area"
        :aria-current="view.area === a.id ? 'page' : undefined"
        :title="a.area ? a.name : phrase('frame.isNotBuiltYet', { name: a.name })"
        @click="a.area && view.go(a.area.id)"
      >
        {{ a.name }}
      </button>
      <button
        class="plain area"
        :class="{ on: view.area === 'run' }"
        :title="steps.next ? phrase('frame.next', { title: steps.next.title }) : phrase('frame.theStepsOfThe')"
        data-testid="run-progress"
        @click="turnRunSheet"
      >
        {{ phrase('common.runSheet') }} <span class="num">{{ steps.done }}/{{ steps.counted }}</span>
      </button>
    </nav>
    <span class="spacer" />
    <button
      class="plain state"
      :class="devices.tone"
      data-testid="devices"
      @click="view.go('rig')"
    >
      <i
        class="pi"
        :class="devices.tone === 'good' ? 'pi-check-circle' : 'pi-exclamation-triangle'"
      />
      {{ devices.text }}
    </button>
    <span
      v-if="site.unsentCount"
      class="unsent"
      data-testid="unsent"
    >
      <b>{{ phrase('frame.unsent', { unsentCount: site.unsentCount }) }}<template v-if="drafts.foreign.length">{{
        phrase('frame.by', {
          foreign: drafts.foreign.length,
          others: drafts.others.join(', '),
        })
      }}</template></b>
      <ActionButton
        v-if="drafts.mine"
        size="small"
        :label="phrase('common.send')"
        :title="drafts.foreign.length ? phrase('frame.sendWhatYouWrote') : phrase('frame.sendToTheDevices')"
        @click="drafts.send()"
      />
      <ActionButton
        v-if="drafts.foreign.length"
        size="small"
        text
        :label="phrase('common.sendAll')"
        :title="phrase('frame.sendAlsoWhatWrote', { others: drafts.others.join(', ') })"
        @click="drafts.sendAll()"
      />
      <ActionButton
        v-if="drafts.mine && !drafts.foreign.length"
        size="small"
        text
        :label="phrase('frame.discard')"
        :title="phrase('frame.discardYourDraftsShow')"
        @click="drafts.drop()"
      />
    </span>
    <button
      class="plain icon"
      :title="phrase('frame.commandsCtrlK')"
      :aria-label="phrase('frame.commands')"
      @click="view.palette = true"
    >
      <i class="pi pi-search" />
    </button>
    <button
      class="plain icon"
      :title="view.theme === 'day' ? phrase('frame.nightTheme', {
        sign: keys.sign('theme'),
      }) : phrase('frame.dayTheme', {
        sign: keys.sign('theme'),
      })"
      :aria-label="phrase('common.changeTheme')"
      data-testid="theme"
      @click="view.turnTheme()"
    >
      <i
        class="pi"
        :class="view.theme === 'day' ? 'pi-moon' : 'pi-sun'"
      />
    </button>
    <span
      class="noise"
      :class="{ on: sounding }"
      data-testid="noise-state"
    ><i
       class="pi"
       :class="sounding ? 'pi-volume-up' : 'pi-volume-off'"
     />
      <span :title="sounding ?? undefined">{{ sounding ?? phrase('frame.silent2') }}</span></span>
    <ActionButton
      class="hush"
      severity="danger"
      :label="phrase('frame.hush')"
      :title="phrase('frame.silenceAtOnce', { sign: keys.sign('hush') })"
      @click="listen.hush()"
    />
  </header>
</template>

<style scoped>
.rail {
  display: flex;
  align-items: center;
  gap: 0.7rem;
  padding: 0 0.75rem;
  height: 50px;
  background: var(--panel);
  border-bottom: 1px solid var(--rule);
  white-space: nowrap;
  min-width: 0;
}
.brand {
  font-weight: 700;
  font-size: 1.1rem;
  text-decoration: none;
  letter-spacing: 0.01em;
}
.site {
  margin: 0;
  font-size: 1rem;
  overflow: hidden;
  text-overflow: ellipsis;
  /* the areas keep their room: a long name yields first */
  flex: 0 1000 auto;
  min-width: 3rem;
  max-width: 11rem;
}
nav {
  display: flex;
  height: 100%;
  min-width: 0;
  overflow-x: auto;
}
.area {
  padding: 0 0.62rem;
  height: 100%;
  border-bottom: 3px solid transparent;
  color: var(--ink-soft);
}
.area.on {
  border-color: var(--accent);
  color: var(--ink);
  font-weight: 650;
}
.area:disabled {
  opacity: 0.45;
  cursor: default;
}
.spacer {
  flex: 1;
}
.state {
  font-size: 0.9rem;
  min-height: 32px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.state.good {
  color: var(--good);
}
.state.warn {
  color: var(--warn);
}
.state.error {
  color: var(--error);
}
.unsent {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  padding: 0 0.4rem;
  border: 1px dashed var(--warn);
  color: var(--warn);
  height: 36px;
}
.icon {
  min-width: 32px;
  min-height: 32px;
  text-align: center;
}
.noise {
  font-size: 0.9rem;
  color: var(--ink-soft);
  min-width: 5rem;
  overflow: hidden;
  text-overflow: ellipsis;
}
.noise .pi {
  margin-right: 0.35rem;
}
.noise.on {
  color: var(--accent);
  font-weight: 650;
}
.hush {
  flex: none;
  height: 44px;
  font-weight: 700;
  padding-inline: 1.1rem;
}
@media (max-width: 1000px) {
  .site,
  .state {
    display: none;
  }
  .rail {
    gap: 0.4rem;
  }
  .noise {
    min-width: 1.4rem;
    flex: 0 1 8rem;
  }
}
</style>
