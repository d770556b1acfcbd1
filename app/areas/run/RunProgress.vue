<script setup lang="ts">
import { showAct, type Figures } from '~~/core/tune'
import { showNumber } from '~~/core/units'
import { useRun } from './useRun'
import { useSite } from '~/document/site'
import { useSweep } from '~/sound/sweepStore'
import { phrase } from '~/parts/phrase'
import { wordsOf } from '~~/core/words'

/** What the work that runs by itself does now, what it waits for, and what it proposes in the end. */
const site = useSite()
const sweep = useSweep()
const run = useRun()
const figures = (f: Figures | null) => (f
  ? phrase('run.dbBetweenThePositions', { between: showNumber(f.between, 1), off: showNumber(f.off, 1) })
  : phrase('run.cannotTellNoPosition'))
</script>

<template>
  <div
    class="work"
    role="status"
    data-testid="run-work"
    :data-state="run.state"
  >
    <p v-if="run.state === 'measuring'">
      <b>{{ phrase('run.measuring') }}</b> {{ sweep.round ? phrase('run.of', {
        at: sweep.round.at,
        all: sweep.round.of,
        name: sweep.round.name,
      }) : '' }}
    </p>
    <template v-else-if="run.state === 'moving'">
      <p>
        <b>{{
          phrase('run.moveTheMicrophoneTo', {
            name: site.positionOf(run.moveTo)?.name ?? '',
          })
        }}</b> {{ phrase('run.nothingPlaysMeanwhile') }}
      </p>
      <ActionButton
        size="small"
        :label="phrase('run.microphoneIsInPlace')"
        @click="run.moved()"
      />
    </template>
    <p v-else-if="run.state === 'computing'">
      <b>{{ phrase('run.computing') }}</b> {{ run.what }}, {{ Math.round(100 * run.part) }} %
    </p>
    <template v-else-if="run.tuning">
      <div class="row apart">
        <b>{{ phrase('run.proposalNothingIsSet', { proposals: run.tuning.proposals.length }) }}</b>
        <span class="row">
          <ActionButton
            size="small"
            text
            :label="phrase('run.rejectAll')"
            @click="run.dismiss()"
          />
          <ActionButton
            size="small"
            :label="phrase('run.acceptOf', { chosen: run.chosen.length, proposals: run.tuning.proposals.length })"
            :disabled="!run.chosen.length"
            @click="run.accept()"
          />
        </span>
      </div>
      <p class="small">
        {{
          phrase('run.allSourcesTogetherThirds', {
            figures: figures(run.tuning.before),
          })
        }} <b data-testid="run-after">{{ figures(run.after) }}</b>.
      </p>
      <ul>
        <li
          v-for="p in run.tuning.proposals"
          :key="p.id"
          :data-proposal="p.id"
        >
          <CheckField
            :label="wordsOf(p.title)"
            :value="!run.left.includes(p.id)"
            @change="run.toggle(p.id)"
          >
            <b>{{ wordsOf(p.title) }}</b>
          </CheckField>
          <p class="small">
            <template
              v-for="(a, n) in p.acts"
              :key="n"
            >
              {{ n ? '; ' : '' }}{{ p.acts.length > 1 ? `${site.sourceName(a.source)}: ` : '' }}{{ showAct(a.act) }}
            </template>
          </p>
          <p
            v-for="(r, k) in p.reasons"
            :key="k"
            class="small soft"
          >
            {{ wordsOf(r) }}
          </p>
        </li>
      </ul>
      <template v-if="run.tuning.notes.length">
        <b>{{ phrase('run.needsYourCheck') }}</b>
        <p
          v-for="(n, k) in run.tuning.notes"
          :key="k"
          class="sentence warn"
        >
          {{ wordsOf(n) }}
        </p>
      </template>
    </template>
  </div>
</template>

<style scoped>
.work {
  border: 1px solid var(--accent);
  border-radius: 3px;
  padding: 0.5rem 0.7rem;
  margin: 0.4rem 0;
}
p {
  margin: 0.2rem 0;
}
ul {
  list-style: none;
  margin: 0.4rem 0;
  padding: 0;
  columns: 2;
}
li {
  break-inside: avoid;
  padding: 0.2rem 0;
}
</style>
