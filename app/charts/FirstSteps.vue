<script setup lang="ts">
import { isHeard, isKnown } from '~~/core/tune'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { useFeed } from '~/sound/feed'
import { useListen } from '~/sound/listen'
import { phrase } from '~/parts/phrase'
/** What a site that was never measured begins with: three steps, each with the button that does it. */
const site = useSite()
const view = useView()
const listen = useListen()
const takes = useTakes()
const feed = useFeed()
const first = computed(() => {
  const [source, position] = [site.sources[0], site.positions[0]]
  return source && position ? { source, position } : null
})
/** The source is fed, and microphone and reference hear enough of it that the curve is known somewhere. */
const hears = computed(() =>
  !listen.silent && isHeard(listen.levels) && !!listen.curve && isKnown(listen.curve, listen.arrival?.band))
/** What is missing first: a drive, a feed, or the signal. */
const startOrFeed = computed(() => {
  if (listen.undriven) {
    return {
      what: phrase('charts.nothingDrivesChooseIts', { name: listen.undriven.name }),
      act: phrase('charts.inSite'),
      run: () => {
        view.thing = listen.undriven!.id
        view.go('site')
      },
    }
  }
  if (listen.noise && listen.silent)
    return {
      what: phrase('charts.getsNoSignalFeed', { name: listen.silent.name }),
      act: phrase('charts.feedIt'),
      run: () => void feed.only(),
    }
  return {
    what: phrase('charts.startTheNoiseQuietly'),
    act: phrase('frame.startNoise'),
    run: () => void listen.turnNoise(true),
  }
})
const steps = computed(() => [
  {
    done: !!view.cell,
    what: phrase('charts.pickACellA'),
    act: first.value
      ? phrase('common.cellAt', { source: first.value.source.name, position: first.value.position.name })
      : phrase('charts.drawThem'),
    run: () => {
      if (first.value) view.cell = { source: first.value.source.id, position: first.value.position.id }
      else view.go('site')
    },
  },
  {
    done: hears.value && !listen.undriven,
    ...startOrFeed.value,
  },
  { done: false, what: phrase('charts.whenTheLineStands'), act: 'Take', run: () => listen.take() },
])
/** The step that comes next; those after it wait. */
const next = computed(() => steps.value.findIndex(s => !s.done))
</script>

<template>
  <ol
    v-if="!takes.all.length"
    :aria-label="phrase('charts.firstSteps')"
    data-testid="first-steps"
  >
    <li
      v-for="(s, n) in steps"
      :key="s.what"
      :class="{ done: s.done, now: n === next }"
      :aria-current="n === next ? 'step' : undefined"
    >
      <b class="num">{{ s.done ? '✓' : n + 1 }}</b>
      <span class="small">{{ s.what }}</span>
      <ActionButton
        v-if="n === next"
        size="small"
        :label="s.act"
        :disabled="(n === 2 && !hears) || (n === 1 && listen.taken !== null)"
        @click="s.run"
      />
    </li>
  </ol>
</template>

<style scoped>
ol {
  list-style: none;
  display: flex;
  gap: 0.6rem;
  margin: 0.3rem 0.6rem 0.2rem 0;
  padding: 0;
}
li {
  flex: 1;
  min-width: 0;
  display: flex;
  align-items: center;
  gap: 0.5rem;
  padding: 0.35rem 0.6rem;
  border: 1px solid var(--rule);
  color: var(--ink-soft);
}
li.now {
  flex: 1.9;
  border-color: var(--accent);
  color: var(--ink);
}
li span {
  flex: 1;
  line-height: 1.2;
}
@media (max-width: 700px) {
  li:not(.now) {
    display: none;
  }
}
</style>
