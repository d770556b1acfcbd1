<script setup lang="ts">
import { averagings } from '~/stores/listen'
import { smoothings } from '~~/core/measure'
import { highestOrder } from '~~/standins/venue/acoustics'
import { backgroundIds, backgrounds } from '~~/standins/venue/background'

const listen = useListen(), view = useView(), site = useSite()
const position = computed(() => site.site?.positions.find(p => p.id === view.cell?.position)?.name)

/** What the levels say, in words (common practice: noise near -12 to -20 dBFS, a microphone peak of -30 dBFS is usable, -50 is not). */
const advice = computed(() => {
  const { microphone, reference } = listen.levels
  if (!listen.running || listen.searching || !listen.noise) return null
  if (microphone.peak >= -0.1 || reference.peak >= -0.1) return `${microphone.peak >= -0.1 ? 'The microphone' : 'The reference'} clips: turn it down.`
  if (microphone.peak < -50) return `The microphone is too quiet to trust (peak ${microphone.peak.toFixed(0)} dBFS): raise it by about ${Math.round(-30 - microphone.peak)} dB.`
  return null
})
</script>

<template>
  <div data-testid="listen-inspector">
    <div class="section">
      <h2>Sound from</h2>
      <select v-model="listen.input" aria-label="Sound from">
        <option value="venue">Simulated interface (no gear needed)</option>
        <option value="computer">This computer’s inputs</option>
      </select>
      <p v-if="listen.input === 'venue'" class="soft small">The simulated microphone stands at {{ position ?? 'the position you pick' }} and hears what the stand-in devices hold.</p>
      <template v-if="listen.input === 'venue'">
        <label class="two"><span class="small soft">In the hall</span>
          <select v-model="listen.background" aria-label="In the hall"><option v-for="b in backgroundIds" :key="b" :value="b">{{ backgrounds[b].name }}</option></select>
        </label>
        <label class="two"><span class="small soft">Reflections</span>
          <select v-model.number="listen.reflections" aria-label="Reflections"><option v-for="n in highestOrder + 1" :key="n" :value="n - 1">{{ n === 1 ? 'direct sound and tail only' : `one by one up to order ${n - 1}` }}</option></select>
        </label>
        <label class="row small"><input v-model="listen.evening" type="checkbox"> Let the evening pass: the air of show time in ten minutes</label>
      </template>
      <ComputerInputs v-else />
    </div>
    <div class="section">
      <div class="row apart">
        <h2>Noise</h2>
        <span class="soft small">pink, from Kovrin</span>
      </div>
      <Button :label="listen.noise ? 'Stop noise' : 'Start noise'" :severity="listen.noise ? 'secondary' : undefined" title="Noise on or off (N)" data-testid="noise" @click="listen.turnNoise(!listen.noise)" />
      <label class="row level"><span class="small soft">Level</span><input v-model.number="listen.noiseLevel" type="range" min="-50" max="-6" step="1" aria-label="Noise level in dBFS"><span class="num">{{ `${listen.noiseLevel}`.replace('-', '−') }} dBFS</span></label>
      <LevelMeter name="Reference" :level="listen.levels.reference" />
      <LevelMeter name="Microphone" :level="listen.levels.microphone" />
      <p v-if="advice" class="sentence warn">{{ advice }}</p>
    </div>
    <div class="section">
      <h2>Measurement</h2>
      <label class="two"><span class="small soft">Averaging</span>
        <select v-model="listen.averagingId" aria-label="Averaging"><option v-for="a in averagings" :key="a.id" :value="a.id">{{ a.name }}</option></select>
      </label>
      <label class="two"><span class="small soft">Smoothing</span>
        <select v-model.number="view.smoothing" aria-label="Smoothing"><option v-for="s in smoothings" :key="s" :value="s">1/{{ s }} octave{{ s === 48 ? ', to investigate' : s === 12 ? ', to decide' : '' }}</option></select>
      </label>
      <div class="row">
        <Button class="grow" size="small" severity="secondary" label="Find arrival" title="Find arrival (F)" :disabled="!listen.running" @click="listen.find()" />
        <Button class="grow" size="small" severity="secondary" label="Restart average" title="Restart average (R)" :disabled="!listen.running" @click="listen.restart()" />
      </div>
    </div>
    <div class="section">
      <Button label="Take" size="large" :loading="listen.taking" :disabled="!listen.curve" title="Keep this measurement (T)" data-testid="take" @click="listen.take()" />
      <p class="soft small">Keeps the curve, its impulse response and the settings that were in the devices.</p>
    </div>
  </div>
</template>

<style scoped>
p { margin: 0; }
.two { display: grid; grid-template-columns: 84px 1fr; align-items: center; }
.grow { flex: 1; }
.level input { flex: 1; min-width: 0; accent-color: var(--accent); }
</style>
