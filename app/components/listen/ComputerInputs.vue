<script setup lang="ts">
const computer = useComputerInputs(), listen = useListen()
onMounted(() => void computer.list().catch(() => {}))

const channelList = computed(() => Array.from({ length: Math.max(2, computer.channels) }, (_, k) => ({ id: k, name: `channel ${k + 1}` })))
const same = computed(() => computer.choice.reference === computer.choice.microphone)
const reopen = async () => { if (computer.state === 'open') { listen.stop(); await listen.start() } }
const pick = (change: Partial<typeof computer.choice>) => {
  computer.choice = { ...computer.choice, ...change }
  void reopen()
}
const reference = (text: string) => text === 'generator' ? 'generator' as const : Number(text)
</script>

<template>
  <div class="inputs">
    <label class="two"><span class="small soft">Device</span>
      <select :value="computer.choice.device" aria-label="Input device" @change="pick({ device: ($event.target as HTMLSelectElement).value })">
        <option value="">The computer’s default input</option>
        <option v-for="d in computer.inputs.filter(x => x.id)" :key="d.id" :value="d.id">{{ d.label }}</option>
      </select>
    </label>
    <label class="two"><span class="small soft">Microphone</span>
      <select :value="computer.choice.microphone" aria-label="Microphone channel" @change="pick({ microphone: Number(($event.target as HTMLSelectElement).value) })">
        <option v-for="c in channelList" :key="c.id" :value="c.id">{{ c.name }}</option>
      </select>
    </label>
    <label class="two"><span class="small soft">Reference</span>
      <select :value="computer.choice.reference" aria-label="Reference" @change="pick({ reference: reference(($event.target as HTMLSelectElement).value) })">
        <option v-for="c in channelList" :key="c.id" :value="c.id">{{ c.name }}</option>
        <option value="generator">Kovrin’s own noise</option>
      </select>
    </label>
    <label class="two"><span class="small soft">Noise out</span>
      <select :value="computer.choice.output" aria-label="Noise output" @change="pick({ output: ($event.target as HTMLSelectElement).value })">
        <option value="">The computer’s default output</option>
        <option v-for="d in computer.outputs.filter(x => x.id && x.id !== 'default')" :key="d.id" :value="d.id">{{ d.label }}</option>
      </select>
    </label>
    <p v-if="same" class="sentence error">Microphone and reference are the same channel: the result would be a flat line. Pick two.</p>
    <Button v-else :label="computer.state === 'open' ? 'Stop listening' : 'Listen'" :severity="computer.state === 'open' ? 'secondary' : undefined" :loading="computer.state === 'asking'" data-testid="listen" @click="computer.state === 'open' ? listen.stop() : listen.start()" />
    <p v-if="computer.why" class="sentence error" data-testid="input-trouble">{{ computer.why }}</p>
  </div>
</template>

<style scoped>
.inputs { display: grid; gap: 0.4rem; }
.two { display: grid; grid-template-columns: 84px 1fr; align-items: center; }
p { margin: 0; }
</style>
