<script setup lang="ts">
const route = useRoute()
const site = useSite()
const view = useView()
const listen = useListen()
const commands = useCommands()

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
useHead({ title: computed(() => (site.open ? `${site.name} · Kovrin` : 'Kovrin')) })
</script>

<template>
  <main
    v-if="site.missing"
    class="missing"
  >
    <h1>This site does not exist</h1>
    <p>{{ site.missing }} It may have been renamed or removed.</p>
    <NuxtLink to="/">See all sites</NuxtLink>
  </main>
  <main
    v-else-if="site.open"
    class="frame"
  >
    <TopRail />
    <LedgerPanel />
    <SitePlate v-if="view.area === 'site'" />
    <RigPlate v-else-if="view.area === 'rig'" />
    <WatchPlate v-else-if="view.area === 'watch'" />
    <InputsPanel v-else-if="view.inputs && view.area === 'listen'" />
    <PlateView v-else />
    <aside
      class="inspector"
      :class="{ open: view.drawer === 'inspector' }"
      aria-label="Inspector"
    >
      <ShapeInspector v-if="view.area === 'shape' || view.area === 'rig'" />
      <SiteInspector v-else-if="view.area === 'site'" />
      <ListenInspector v-else />
    </aside>
    <PathRibbon />
    <nav
      class="drawers"
      aria-label="Drawers"
    >
      <Button
        size="small"
        severity="secondary"
        label="Show ledger"
        @click="view.drawer = view.drawer === 'ledger' ? null : 'ledger'"
      />
      <Button
        size="small"
        severity="secondary"
        label="Show inspector"
        @click="view.drawer = view.drawer === 'inspector' ? null : 'inspector'"
      />
    </nav>
    <p
      v-if="!site.connected"
      class="offline sentence warn"
      role="status"
    >
      The server does not answer. What you see is kept; edits and takes wait until it is back.
    </p>
    <CommandPalette :commands="commands" />
  </main>
  <main
    v-else
    class="missing soft"
  >
    <p>Opening the site …</p>
  </main>
</template>

<style scoped>
.frame {
  height: 100dvh;
  display: grid;
  grid-template: 50px minmax(0, 1fr) 104px / 306px minmax(0, 1fr) 326px;
  grid-template-areas: 'rail rail rail' 'ledger plate inspector' 'ribbon ribbon ribbon';
  overflow: hidden;
}
.frame > :nth-child(1) {
  grid-area: rail;
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
  top: 56px;
  left: 50%;
  transform: translateX(-50%);
  z-index: 40;
  margin: 0;
}
.drawers {
  display: none;
}
@media (max-width: 1100px) {
  .frame {
    grid-template: 50px minmax(0, 1fr) 112px / minmax(0, 1fr);
    grid-template-areas: 'rail' 'plate' 'ribbon';
  }
  .frame > :deep(.ledger),
  .inspector {
    display: none;
    position: fixed;
    top: 50px;
    bottom: 0;
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
