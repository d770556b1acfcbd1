<script setup lang="ts">
import { ribbonFeed, type RibbonBlock } from '~/frame/useRibbon'
import { bandDriven } from '~~/core/documents'
import { testFeed } from '~~/core/rig'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useRibbon } from './useRibbon'
import { useFeed } from '~/sound/feed'
import { useListen } from '~/sound/listen'
import RibbonItem from './RibbonItem.vue'
import { phrase } from '~/parts/phrase'

const site = useSite()
const view = useView()
const feed = useFeed()
const listen = useListen()
const which = toRef(view, 'way')
watch(
  () => view.cell?.source,
  () => { which.value = 0 },
)
/** Another way of the same source: the inspector follows it. */
function choose(way: number) {
  which.value = way
  view.strip = null
}
const outputs = computed(() => (view.cell ? site.outputs(view.cell.source) : []))
/** What each way is called: by the band that it drives, where a cabinet has several; else by its number. */
const ways = computed(() => outputs.value.map((output, k) => {
  const driven = bandDriven(site.documents, view.cell!.source, output)
  const band = driven && driven.sheet.bands.length > 1 ? driven.band : undefined
  const where = phrase('frame.wayThroughOutput', {
    deviceName: site.deviceName(output.device),
    channel: output.channel + 1,
  })
  return { name: band ? band.name : `${k + 1}`, where }
}))
const blocks = useRibbon(which)
/** The feeds of the rig, and the one that is looked along. */
const feeds = computed(() => Object.entries(site.wiring.feeds).map(([id, { name }]) => ({ id, name })))
const along = computed(() => ribbonFeed(view.feed, site.wiring.feeds))
const isOwn = computed(() => along.value === testFeed)

const silentAt = computed(() => blocks.value.find(b => b.muted))

const silence = ({ title, adds, forNow }: RibbonBlock): string =>
  (forNow
    ? phrase('frame.silentForNow', { title, adds: adds[0]!, what: forNow.what, who: forNow.who })
    : `Silent: ${title} ${adds[0]}.`)

/** Where a source is picked and its output chosen. */
function chooseOutput() {
  view.thing = listen.undriven!.id
  view.go('site')
}
const isPicked = ({ edits }: RibbonBlock) =>
  edits !== null && view.area === 'shape' && view.strip?.device === edits.device && view.strip.strip === edits.strip
</script>

<template>
  <footer
    class="ribbon"
    :aria-label="phrase('frame.pathRibbon')"
  >
    <template v-if="blocks.length">
      <div
        class="lead"
        :class="{ wide: silentAt || listen.undriven || listen.others.length }"
      >
        <span class="head"><b>{{ phrase('frame.path') }}</b><span
          v-if="outputs.length > 1"
          class="ways"
          role="group"
          :aria-label="phrase('frame.output')"
        ><button
          v-for="(w, k) in ways"
          :key="k"
          class="plain way"
          :class="{ on: which === k }"
          :aria-pressed="which === k"
          :title="w.where"
          @click="choose(k)"
        >
          {{ w.name }}
        </button></span></span>
        <template v-if="listen.undriven">
          <span
            class="finding"
            data-testid="path-finding"
          >{{ phrase('frame.nothingDrives', { name: listen.undriven.name }) }}</span>
          <span class="feeds"><ActionButton
            size="small"
            severity="secondary"
            :label="phrase('frame.chooseItsOutput')"
            @click="chooseOutput"
          /></span>
        </template>
        <template v-else-if="silentAt || (isOwn && listen.others.length)">
          <span
            class="finding"
            data-testid="path-finding"
          >{{
            silentAt
              ? silence(silentAt)
              : phrase('frame.too', {
                others: listen.others.map(s => s.name).join(', '),
                part: listen.others.length > 1 ? phrase('frame.sound') : phrase('frame.sounds'),
              })
          }}</span>
          <span
            v-if="isOwn"
            class="feeds"
          >
            <ActionButton
              size="small"
              severity="secondary"
              :label="phrase('frame.feedOnlyThis')"
              :title="phrase('frame.connectsTheTestSignal')"
              @click="feed.only()"
            />
            <ActionButton
              v-if="listen.onlyOthers"
              size="small"
              text
              :label="phrase('frame.alsoFeedThis')"
              :title="phrase('frame.connectsTheTestSignalTo')"
              @click="feed.too()"
            />
          </span>
        </template>
      </div>
      <ol>
        <RibbonItem
          v-for="b in blocks"
          :key="b.key"
          :block="b"
          :picked="isPicked(b)"
          :feeds="feeds"
          :along="along"
        />
      </ol>
    </template>
    <p
      v-else
      class="soft"
    >
      {{ phrase('frame.pickACellTo') }}
    </p>
  </footer>
</template>

<style scoped>
.ribbon {
  background: var(--panel);
  border-top: 1px solid var(--rule);
  display: flex;
  align-items: stretch;
  gap: 0.75rem;
  padding: 0.5rem 0.75rem;
  min-width: 0;
  min-height: 0;
}
.lead {
  display: flex;
  flex-direction: column;
  gap: 0.2rem;
  width: 128px;
  flex: none;
  align-items: flex-start;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 0.6rem;
  align-items: center;
}
.lead.wide {
  width: 196px;
}
.feeds {
  display: flex;
  gap: 0.3rem;
}
.finding {
  color: var(--warn);
  font-size: 0.84rem;
  line-height: 1.2;
}
.ways {
  display: flex;
  gap: 2px;
}
.way {
  border: 1px solid var(--rule-strong);
  min-width: 28px;
  min-height: 24px;
  padding: 0 5px;
  white-space: nowrap;
  font-size: 0.88rem;
  text-align: center;
}
.way.on {
  background: var(--accent);
  color: var(--accent-ink);
}
ol {
  list-style: none;
  display: flex;
  margin: 0;
  padding: 0;
  gap: 0;
  overflow-x: auto;
  flex: 1;
  align-items: stretch;
}
</style>
