<script setup lang="ts">
import { areas, inspectorOf } from '~/areas/registry'
import { useAddress } from '~/frame/useAddress'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { useCommands } from '~/frame/useCommands'
import { useListen } from '~/sound/listen'
import ActionBar from '~/frame/ActionBar.vue'
import AgreementDialog from '~/frame/AgreementDialog.vue'
import CommandPalette from '~/frame/CommandPalette.vue'
import KeySheet from '~/frame/KeySheet.vue'
import LedgerPanel from '~/frame/LedgerPanel.vue'
import LedgerPlate from '~/frame/LedgerPlate.vue'
import PathRibbon from '~/frame/PathRibbon.vue'
import TopRail from '~/frame/TopRail.vue'
import { phrase } from '~/parts/phrase'

// an address of another area is no other page
definePageMeta({ key: route => `site ${String(route.params.site)}` })
const route = useRoute()
const site = useSite()
const view = useView()
const listen = useListen()
const takes = useTakes()
/** The guide is there from its first opening on: its code is a page's more. */
const hasGuide = ref(false)
watch(() => view.guide, (page) => {
  hasGuide.value ||= page !== null
})
const GuideDialog = defineAsyncComponent(() => import('~/frame/GuideDialog.vue'))
const commands = useCommands()
useAddress()
const area = computed(() => areas[view.area])
const plate = computed(() => {
  if (area.value.charts && view.plate === 'ledger') return LedgerPlate
  return (view.plate !== null && area.value.plates?.[view.plate]) || area.value.plate
})
const inspector = computed(() => inspectorOf(area.value))

onMounted(() => void site.openSite(String(route.params.site)))
onBeforeUnmount(() => {
  listen.stop()
  site.close()
})
watch(
  () => site.open?.id,
  () => {
    const { cell } = view
    if (site.open && cell && !(site.sourceOf(cell.source) && site.positionOf(cell.position))) view.cell = null
  },
)
/** Who is away, and what that means. */
const away = computed(() => {
  const lost = !site.connected || takes.waiting > 0
  const who = site.trouble ?? (lost ? phrase('common.kovrinsServerDoesNot') : null)
  const kept = takes.waiting
    ? phrase('frame.takesNotSavedYet', {
        waiting: takes.waiting,
      })
    : phrase('frame.takesWaitForIt')
  return who && phrase('frame.whatYouSeeWas', { who, kept })
})
/** What Tab comes to first: the parts of the frame. */
const skips = [
  { name: phrase('frame.toTheLedger'), to: '.ledger' },
  { name: phrase('frame.toTheCharts'), to: '.plate' },
  { name: phrase('frame.toTheInspector'), to: '.inspector' },
  { name: phrase('frame.toThePath'), to: '.ribbon' },
]
function skip(to: string) {
  const part = document.querySelector<HTMLElement>(to)
  part?.querySelector<HTMLElement>('[tabindex="0"], button, input, [role="combobox"]')?.focus()
}
useHead({
  title: computed(() => (site.open ? phrase('frame.kovrin', { name: site.name }) : phrase('common.kovrin'))),
  htmlAttrs: { class: 'framed' },
})
</script>

<template>
  <main
    v-if="site.missing"
    class="missing"
  >
    <h1>{{ phrase('frame.thisSiteDoesNot') }}</h1>
    <p>{{ phrase('frame.itMayHaveBeen', { missing: site.missing }) }}</p>
    <NuxtLink to="/">{{ phrase('frame.seeAllSites') }}</NuxtLink>
  </main>
  <main
    v-else-if="site.open"
    class="frame"
    :class="{ alone: !inspector }"
  >
    <TopRail />
    <nav
      class="skips"
      :aria-label="phrase('frame.skipTo')"
    >
      <a
        v-for="s in skips"
        :key="s.to"
        href="#"
        @click.prevent="skip(s.to)"
      >{{ s.name }}</a>
    </nav>
    <ActionBar />
    <LedgerPanel v-if="area.ledger" />
    <component :is="plate" />
    <aside
      v-if="inspector"
      class="inspector"
      :class="{ open: view.drawer === 'inspector' }"
      :aria-label="phrase('frame.inspector')"
    >
      <component :is="inspector" />
    </aside>
    <PathRibbon v-if="area.ribbon" />
    <nav
      class="drawers"
      :aria-label="phrase('frame.drawers')"
    >
      <ActionButton
        size="small"
        severity="secondary"
        :label="view.drawer === 'ledger' ? phrase('frame.closeTheLedger') : phrase('frame.showLedger')"
        @click="view.drawer = view.drawer === 'ledger' ? null : 'ledger'"
      />
      <ActionButton
        v-if="inspector"
        size="small"
        severity="secondary"
        :label="view.drawer === 'inspector' ? phrase('frame.closeTheInspector') : phrase('frame.showInspector')"
        @click="view.drawer = view.drawer === 'inspector' ? null : 'inspector'"
      />
    </nav>
    <p
      v-if="away"
      class="offline sentence warn"
      role="status"
    >
      {{ away }}
    </p>
    <CommandPalette :commands="commands" />
    <KeySheet :commands="commands" />
    <GuideDialog v-if="hasGuide" />
    <AgreementDialog />
  </main>
  <main
    v-else
    class="missing soft"
  >
    <p>{{ phrase('frame.openingTheSite') }}</p>
    <p
      v-if="site.trouble"
      class="sentence warn"
      role="status"
    >
      {{ phrase('frame.itIsAskedAgainEvery', { trouble: site.trouble }) }}
    </p>
  </main>
</template>

<style scoped>
.frame {
  height: 100dvh;
  display: grid;
  grid-template: 50px auto minmax(0, 1fr) 104px / 306px minmax(0, 1fr) 326px;
  grid-template-areas: 'rail rail rail' 'ledger actions inspector' 'ledger plate inspector' 'ribbon ribbon ribbon';
  /* nothing in it may move the frame, not even what takes the focus */
  overflow: clip;
  position: relative;
}
.frame.alone {
  grid-template-columns: 306px minmax(0, 1fr);
  grid-template-areas: 'rail rail' 'ledger actions' 'ledger plate' 'ribbon ribbon';
}
.frame > :nth-child(1) {
  grid-area: rail;
}
.frame > :deep(.actions) {
  grid-area: actions;
}
.frame > :deep(.ledger) {
  grid-area: ledger;
}
.frame > :deep(.plate) {
  grid-area: plate;
  min-width: 0;
}
.frame > :deep(.ribbon) {
  grid-area: ribbon;
}
.inspector {
  grid-area: inspector;
  background: var(--panel);
  border-left: 1px solid var(--rule);
  overflow-y: auto;
  min-height: 0;
}
.missing {
  padding: 4rem;
  display: grid;
  gap: 0.75rem;
  justify-items: start;
}
.offline {
  position: fixed;
  /* over the end of the plate: never over what starts, stops or takes */
  bottom: 112px;
  left: 50%;
  transform: translateX(-50%);
  width: max-content;
  max-width: min(38rem, 100vw - 1rem);
  z-index: 40;
  margin: 0;
}
.skips {
  position: fixed;
  z-index: 60;
  top: 4px;
  left: 4px;
}
.skips a:not(:focus) {
  position: absolute;
  clip-path: inset(50%);
}
.skips a:focus {
  background: var(--accent);
  color: var(--accent-ink);
  padding: 0.6rem 1rem;
  display: inline-block;
}
.drawers {
  display: none;
}
@media (max-width: 1100px) {
  .frame,
  .frame.alone {
    grid-template: 50px auto minmax(0, 1fr) 112px / minmax(0, 1fr);
    grid-template-areas: 'rail' 'actions' 'plate' 'ribbon';
  }
  .frame > :deep(.ledger),
  .inspector {
    display: none;
    position: fixed;
    top: 94px;
    bottom: 112px;
    z-index: 30;
    width: min(340px, 92vw);
  }
  .frame > :deep(.ledger.open) {
    display: block;
    left: 0;
  }
  .inspector.open {
    display: block;
    right: 0;
  }
  .offline {
    bottom: 164px;
  }
  .drawers {
    display: flex;
    gap: 0.4rem;
    position: fixed;
    right: 0.6rem;
    bottom: 118px;
    z-index: 35;
  }
}
</style>
