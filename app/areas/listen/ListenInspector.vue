<script setup lang="ts">
import { windows } from '~~/core/dsp'
import { quantities } from '~~/core/units'
import { averagings, blockLengths } from '~/sound/listen'
import { smoothings } from '~~/core/measure'

const listen = useListen()
const view = useView()
const corrections = useCorrections()
const overlaps = [0, 0.5, 0.75, 0.875]
</script>

<template>
  <div data-testid="listen-inspector">
    <FindingsPanel />
    <div class="section">
      <GeneratorPanel />
      <details>
        <summary class="small soft">
          Interface’s own response: {{ corrections.interfaceText ? corrections.interfaceText.name : 'none' }}
        </summary>
        <p class="small soft">
          Join an output to the microphone’s input by a cable and start the noise.
        </p>
        <Button
          size="small"
          severity="secondary"
          label="Keep what is measured now"
          @click="listen.keepInterface()"
        />
        <Button
          v-if="corrections.interfaceText"
          size="small"
          text
          label="Take it off"
          @click="corrections.interfaceText = null"
        />
      </details>
    </div>
    <MeasurementsPanel />
    <SoundFrom />
    <div class="section">
      <h2>Averaging and smoothing</h2>
      <label class="two"><span class="small soft">Averaging</span>
        <select
          v-model="listen.averagingId"
          aria-label="Averaging"
        >
          <option
            v-for="a in averagings"
            :key="a.id"
            :value="a.id"
          >{{ a.name }}</option>
        </select>
      </label>
      <label class="two"><span class="small soft">Smoothing</span>
        <select
          v-model.number="view.smoothing"
          aria-label="Smoothing"
        >
          <option
            v-for="s in smoothings"
            :key="s"
            :value="s"
          >
            1/{{ s }} octave{{ s === 48 ? ', to investigate' : s === 12 ? ', to decide' : '' }}
          </option>
        </select>
      </label>
      <div class="trim">
        <NumberField
          label="Trim, for viewing only"
          :value="listen.trim"
          v-bind="quantities.level"
          @change="listen.trim = $event"
        /><Button
          size="small"
          severity="secondary"
          label="To 0 dB"
          title="Lets the trace sit at 0 dB between 500 Hz and 2 kHz"
          :disabled="!listen.curve"
          @click="listen.matchLevel()"
        />
      </div>
      <details>
        <summary class="small soft">
          Block {{ listen.length === 'multi' ? 'lengths: several' : `length ${listen.length}` }},
          {{ listen.magnitude }} averaging, {{ windows[listen.window].name }}
        </summary>
        <label class="two"><span class="small soft">Blocks</span>
          <select
            :value="listen.length"
            aria-label="Block length"
            @change="
              listen.length
                = ($event.target as HTMLSelectElement).value === 'multi'
                  ? 'multi'
                  : Number(($event.target as HTMLSelectElement).value)
            "
          >
            <option
              v-for="n in blockLengths"
              :key="n"
              :value="n"
            >
              {{ n === 'multi' ? 'several: long for bass, short for treble' : `${n} samples` }}
            </option>
          </select>
        </label>
        <label class="two"><span class="small soft">Magnitude</span><select
          v-model="listen.magnitude"
          aria-label="Magnitude from"
        >
          <option value="complex">complex: noise falls out</option>
          <option value="power">power: noise stays in</option>
        </select></label>
        <label class="two"><span class="small soft">Overlap</span><select
          v-model.number="listen.overlap"
          aria-label="Overlap"
        >
          <option
            v-for="o in overlaps"
            :key="o"
            :value="o"
          >{{ o * 100 }} %</option>
        </select></label>
        <label class="two"><span class="small soft">Window</span><select
          v-model="listen.window"
          aria-label="Window"
        >
          <option
            v-for="(w, id) in windows"
            :key="id"
            :value="id"
          >{{ w.name }}</option>
        </select></label>
        <label class="row small"><input
          v-model="listen.dropPoor"
          type="checkbox"
        > Leave out blocks that something disturbed</label>
      </details>
      <div class="row">
        <Button
          class="grow"
          size="small"
          severity="secondary"
          label="Find arrival"
          title="Find arrival (F)"
          :disabled="!listen.running"
          @click="listen.find()"
        />
        <Button
          class="grow"
          size="small"
          severity="secondary"
          label="Restart average"
          title="Restart average (R)"
          :disabled="!listen.running"
          @click="listen.restart()"
        />
      </div>
    </div>
    <div class="section">
      <Button
        label="Take"
        size="large"
        :loading="listen.taking"
        :disabled="!listen.curve"
        title="Keep this measurement (T)"
        data-testid="take"
        @click="listen.take()"
      />
      <p class="soft small">
        Keeps the curve, its impulse response and the settings that were in the devices.
      </p>
    </div>
    <ArrivalPanel />
    <SweepPanel />
  </div>
</template>

<style scoped>
p {
  margin: 0;
}
.two {
  display: grid;
  grid-template-columns: 84px 1fr;
  align-items: center;
}
.grow {
  flex: 1;
}
.trim {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.5rem;
  align-items: end;
}
details {
  display: grid;
}
details > label {
  margin-top: 0.4rem;
}
summary {
  cursor: pointer;
}
</style>
