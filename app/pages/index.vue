<script setup lang="ts">
import { ask } from '~/utils/api'

interface Row { id: string, name: string, touchedAt: string, sources: number, positions: number, takes: number, cells: number }
const view = useView()
const sites = ref<Row[] | null>(null)
const trouble = ref<string | null>(null)
async function load() {
  trouble.value = null
  try { sites.value = await ask<Row[]>('/api/sites') }
  catch (error) { trouble.value = (error as Error).message }
}
onMounted(load)
useHead({ title: 'Sites · Kovrin' })
</script>

<template>
  <main class="page">
    <header class="row apart">
      <h1>Kovrin</h1>
      <button class="plain" :title="view.theme === 'day' ? 'Night theme' : 'Day theme'" aria-label="Change theme" @click="view.turnTheme()"><i class="pi" :class="view.theme === 'day' ? 'pi-moon' : 'pi-sun'" /></button>
    </header>
    <p class="soft">Hear what each loudspeaker and the room really do, set the processors, and see the measurement answer.</p>
    <h2>Sites</h2>
    <p v-if="trouble" class="sentence error">{{ trouble }} <button class="plain" @click="load"><u>Try again</u></button></p>
    <p v-else-if="!sites" class="soft">Looking for your sites …</p>
    <ul v-else>
      <li v-for="s in sites" :key="s.id">
        <NuxtLink :to="`/sites/${s.id}`" class="panel site">
          <b>{{ s.name }}</b>
          <span>{{ s.sources }} sources × {{ s.positions }} positions</span>
          <span>{{ s.cells }} of {{ s.sources * s.positions }} cells measured, {{ s.takes }} {{ s.takes === 1 ? 'take' : 'takes' }}</span>
          <span class="soft">last work {{ new Date(s.touchedAt).toLocaleString() }}</span>
        </NuxtLink>
      </li>
    </ul>
    <label class="who">Your name in the history <input v-model="view.who" maxlength="60"></label>
  </main>
</template>

<style scoped>
.page { max-width: 760px; margin: 0 auto; padding: 3rem 1.5rem; display: grid; gap: 1rem; }
h1 { font-size: 2rem; }
.plain { min-width: 44px; min-height: 44px; text-align: center; }
ul { list-style: none; padding: 0; margin: 0; display: grid; gap: 0.75rem; }
.site { display: grid; gap: 0.2rem; padding: 1rem 1.2rem; color: inherit; text-decoration: none; }
.site b { font-size: 1.3rem; }
.site:hover { border-color: var(--accent); }
.who { display: flex; gap: 0.6rem; align-items: center; color: var(--ink-soft); }
.who input { height: 36px; border: 1px solid var(--rule-strong); background: var(--panel); color: var(--ink); font: inherit; padding: 0 0.5rem; }
</style>
