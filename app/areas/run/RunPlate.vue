<script setup lang="ts">
import type { RunStep } from '~~/core/tune'
import { useRun } from './useRun'
import { useSite } from '~/document/site'
import { useSteps } from '~/document/steps'
import { useView } from '~/document/view'
import RunProgress from './RunProgress.vue'
import { phrase } from '~/parts/phrase'
import { wordsOf } from '~~/core/words'

/** The run sheet: what is to be done in this hall, why, how far it is, and the work that runs by itself. */
const site = useSite()
const view = useView()
const steps = useSteps()
const run = useRun()

const groups: Record<RunStep['kind'], string> = {
  show: phrase('run.routingForTheShow'),
  alone: phrase('run.measureEachSourceAlone'),
  shape: phrase('run.correctEachSource'),
  time: phrase('common.times'),
  sum: phrase('run.whereTheyOverlap'),
  together: phrase('run.proveIt'),
}
const kinds = Object.keys(groups) as RunStep['kind'][]
const grouped = computed(() =>
  kinds.map(kind => ({ kind, name: groups[kind], list: steps.steps.filter(s => s.kind === kind) }))
    .filter(g => g.list.length))
const signs = { done: 'pi-check-circle', open: 'pi-circle', stale: 'pi-refresh', skipped: 'pi-minus-circle' } as const
const words = { done: 'done', open: phrase('common.toDo'), stale: phrase('run.toDoAgain'), skipped: 'skipped' } as const

/** Opens what a step is about, with its cells picked. */
function open(step: RunStep) {
  const position = site.positions[step.positions[0] ?? 0]?.id
  const source = step.source || site.sources[0]?.id
  if (source && position) view.cell = { source, position }
  if (step.kind === 'show') return view.go('rig')
  if (step.kind === 'alone' || step.kind === 'together') return view.go('listen', null)
  if (step.kind === 'shape') {
    view.go('shape', null)
    const [output] = site.outputs(step.source)
    const strip = output && site.deviceOf(output.device)?.capability.outputs[output.channel]?.strip
    if (output && strip !== undefined) view.strip = { device: output.device, strip }
    return
  }
  view.go('align', step.kind === 'time' ? 'times' : 'pair')
  view.aligned = step.source
}
const print = () => window.print()
</script>

<template>
  <section
    class="plate sheet run"
    tabindex="0"
    :aria-label="phrase('common.plate')"
    data-testid="run-plate"
  >
    <div class="row apart">
      <h2>{{ phrase('run.runSheet', { name: site.name }) }}</h2>
      <span class="row">
        <ActionButton
          size="small"
          severity="secondary"
          :label="phrase('run.print')"
          @click="print"
        />
        <ActionButton
          v-if="run.state === 'idle' || run.state === 'proposals'"
          size="small"
          :label="phrase('run.doItForMe')"
          :title="phrase('run.measuresEachSourceAlone')"
          @click="run.start()"
        />
        <ActionButton
          v-else
          size="small"
          severity="secondary"
          :label="phrase('common.stop')"
          @click="run.stop()"
        />
      </span>
    </div>
    <p class="soft">
      {{
        phrase('run.ofStepsAreDone', {
          done: steps.done,
          all: steps.counted,
          next: steps.next ? phrase('run.next', { title: steps.next.title }) : '',
        })
      }}
    </p>
    <RunProgress v-if="run.state !== 'idle'" />
    <template
      v-for="g in grouped"
      :key="g.kind"
    >
      <h3>{{ g.name }}</h3>
      <ol>
        <li
          v-for="s in g.list"
          :key="s.id"
          :class="s.state"
          :data-step="s.id"
          :data-state="s.state"
        >
          <i
            class="pi"
            :class="signs[s.state]"
          />
          <div>
            <b>{{ wordsOf(s.title) }}</b> <span class="small state">{{ words[s.state] }}</span>
            <p class="small soft">
              {{ wordsOf(s.told) }}. {{ s.state === 'done' ? '' : wordsOf(s.why) }}
            </p>
          </div>
          <span class="acts">
            <ActionButton
              size="small"
              text
              :label="phrase('run.open')"
              :aria-label="phrase('run.open2', { title: s.title })"
              @click="open(s)"
            />
            <ActionButton
              v-if="s.state !== 'done'"
              size="small"
              text
              :label="s.state === 'skipped' ? phrase('common.resume') : phrase('run.skip')"
              @click="steps.skip(s.id, s.state !== 'skipped')"
            />
          </span>
        </li>
      </ol>
    </template>
    <p
      v-if="!grouped.length"
      class="soft"
    >
      {{ steps.looking ? phrase('run.checking') : phrase('run.stepsAppearWhenThere') }}
    </p>
  </section>
</template>

<style scoped>
.plate {
  overflow-y: auto;
  padding: 0.8rem;
}
h2,
h3,
p {
  margin: 0.3rem 0;
}
h3 {
  font-size: 1rem;
  margin-top: 0.8rem;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 1.4rem minmax(0, 1fr) auto;
  gap: 0.4rem;
  align-items: start;
  padding: 0.25rem 0;
  border-bottom: 1px solid var(--rule);
}
li .pi {
  margin-top: 0.2rem;
}
.done .pi {
  color: var(--good);
}
.stale .pi,
.stale .state {
  color: var(--warn);
}
.skipped {
  opacity: 0.7;
}
.acts {
  white-space: nowrap;
}
</style>

<style>
@media print {
  html.framed body:has(.run) .frame > :not(.run) {
    display: none !important;
  }
  html.framed body:has(.run) .frame {
    display: block;
    height: auto;
  }
  .run .p-button {
    display: none;
  }
}
</style>
