<script setup lang="ts">
import { windows } from '~~/core/dsp'
import { numberKinds } from '../shape/fields'
import { averagings, blockLengths } from '~/stores/listen'
import { smoothings } from '~~/core/measure'
import { highestOrder } from '~~/standins/venue/acoustics'
import { backgroundIds, backgrounds } from '~~/standins/venue/background'

const listen = useListen(), view = useView(), site = useSite()
const position = computed(() => site.site?.positions.find(p => p.id === view.cell?.position)?.name)
/** Puts a further microphone somewhere; it moves up when the one before it is taken away. */
const place = (n: number, id: string) => { listen.otherPositions = [0, 1].map(k => k === n ? id : listen.otherPositions[k] ?? '').filter((x, k, all) => x && all.indexOf(x) === k) }
function load(event: Event) {
  const input = event.target as HTMLInputElement, file = input.files?.[0]
  if (file) void listen.loadCorrection(file)
  input.value = ''
}
</script>

<template>
  <div data-testid="listen-inspector">
    <FindingsPanel />
    <div class="section">
      <GeneratorPanel />
      <LevelMeter name="Reference" :level="listen.levels.reference" :clipped="listen.clipped.reference" @reset="listen.clipped.reference = false" />
      <LevelMeter name="Microphone" :level="listen.levels.microphone" :clipped="listen.clipped.microphone" @reset="listen.clipped.microphone = false" />
      <details>
        <summary class="small soft">Microphone’s own response: {{ listen.correctionText ? listen.correctionText.name : 'none' }}</summary>
        <label class="file small"><input type="file" accept=".txt,.csv,.cal,.frd,text/plain,text/csv" aria-label="Microphone’s own response" @change="load"><span>Load its text file …</span></label>
        <Button v-if="listen.correctionText" size="small" text label="Take it off" @click="listen.correctionText = null" />
      </details>
      <details>
        <summary class="small soft">Interface’s own response: {{ listen.interfaceText ? listen.interfaceText.name : 'none' }}</summary>
        <p class="small soft">Join an output to the microphone’s input by a cable and start the noise.</p>
        <Button size="small" severity="secondary" label="Keep what is measured now" @click="listen.keepInterface()" />
        <Button v-if="listen.interfaceText" size="small" text label="Take it off" @click="listen.interfaceText = null" />
      </details>
    </div>
    <div class="section">
      <h2>Sound from</h2>
      <select v-model="listen.input" aria-label="Sound from">
        <option value="venue">Simulated interface (no gear needed)</option>
        <option value="computer">This computer’s inputs</option>
      </select>
      <p v-if="listen.input === 'venue'" class="soft small">The simulated microphone stands at {{ position ?? 'the position you pick' }} and hears what the stand-in devices hold; two more can stand elsewhere.</p>
      <template v-if="listen.input === 'venue'">
        <label v-for="n in [0, 1]" :key="n" class="two"><span class="small soft">Microphone {{ n + 2 }}</span>
          <select :value="listen.otherPositions[n] ?? ''" :aria-label="`Microphone ${n + 2} at`" @change="place(n, ($event.target as HTMLSelectElement).value)"><option value="">not used</option><option v-for="p in site.site?.positions" :key="p.id" :value="p.id">{{ p.name }}</option></select>
        </label>
        <label class="two"><span class="small soft">In the hall</span>
          <select v-model="listen.background" aria-label="In the hall"><option v-for="b in backgroundIds" :key="b" :value="b">{{ backgrounds[b].name }}</option></select>
        </label>
        <label class="two"><span class="small soft">Reflections</span>
          <select v-model.number="listen.reflections" aria-label="Reflections"><option v-for="n in highestOrder + 1" :key="n" :value="n - 1">{{ n === 1 ? 'direct sound and tail only' : `one by one up to order ${n - 1}` }}</option></select>
        </label>
        <Button v-if="!listen.running" size="small" text label="Listen without noise" data-testid="listen-only" @click="listen.start()" />
        <label class="row small"><input v-model="listen.evening" type="checkbox"> Let the evening pass: the air of show time in ten minutes</label>
      </template>
      <ComputerInputs v-else />
    </div>
    <div class="section">
      <h2>Measurement</h2>
      <label class="two"><span class="small soft">Averaging</span>
        <select v-model="listen.averagingId" aria-label="Averaging"><option v-for="a in averagings" :key="a.id" :value="a.id">{{ a.name }}</option></select>
      </label>
      <label class="two"><span class="small soft">Smoothing</span>
        <select v-model.number="view.smoothing" aria-label="Smoothing"><option v-for="s in smoothings" :key="s" :value="s">1/{{ s }} octave{{ s === 48 ? ', to investigate' : s === 12 ? ', to decide' : '' }}</option></select>
      </label>
      <div class="trim"><NumberField label="Trim, for viewing only" :value="listen.trim" v-bind="numberKinds.level" @change="listen.trim = $event" /><Button size="small" severity="secondary" label="To 0 dB" title="Lets the trace sit at 0 dB between 500 Hz and 2 kHz" :disabled="!listen.curve" @click="listen.matchLevel()" /></div>
      <details>
        <summary class="small soft">Block {{ listen.length === 'multi' ? 'lengths: several' : `length ${listen.length}` }}, {{ listen.magnitude }} averaging, {{ windows[listen.window].name }}</summary>
        <label class="two"><span class="small soft">Blocks</span>
          <select :value="listen.length" aria-label="Block length" @change="listen.length = ($event.target as HTMLSelectElement).value === 'multi' ? 'multi' : Number(($event.target as HTMLSelectElement).value)"><option v-for="n in blockLengths" :key="n" :value="n">{{ n === 'multi' ? 'several: long for bass, short for treble' : `${n} samples` }}</option></select>
        </label>
        <label class="two"><span class="small soft">Magnitude</span><select v-model="listen.magnitude" aria-label="Magnitude from"><option value="complex">complex: noise falls out</option><option value="power">power: noise stays in</option></select></label>
        <label class="two"><span class="small soft">Window</span><select v-model="listen.window" aria-label="Window"><option v-for="(w, id) in windows" :key="id" :value="id">{{ w.name }}</option></select></label>
      </details>
      <div class="row">
        <Button class="grow" size="small" severity="secondary" label="Find arrival" title="Find arrival (F)" :disabled="!listen.running" @click="listen.find()" />
        <Button class="grow" size="small" severity="secondary" label="Restart average" title="Restart average (R)" :disabled="!listen.running" @click="listen.restart()" />
      </div>
    </div>
    <div class="section">
      <Button label="Take" size="large" :loading="listen.taking" :disabled="!listen.curve" title="Keep this measurement (T)" data-testid="take" @click="listen.take()" />
      <p class="soft small">Keeps the curve, its impulse response and the settings that were in the devices.</p>
    </div>
    <ArrivalPanel />
    <SweepPanel />
  </div>
</template>

<style scoped>
p { margin: 0; }
.two { display: grid; grid-template-columns: 84px 1fr; align-items: center; }
.grow { flex: 1; }
.trim { display: grid; grid-template-columns: 1fr auto; gap: 0.5rem; align-items: end; }
.file input { position: absolute; opacity: 0; width: 1px; height: 1px; } .file span { display: inline-block; border: 1px solid var(--rule-strong); padding: 0.3rem 0.6rem; cursor: pointer; margin-top: 0.3rem; } .file input:focus-visible + span { outline: 2px solid var(--accent); }
details { display: grid; } details > label { margin-top: 0.4rem; } summary { cursor: pointer; }
</style>
