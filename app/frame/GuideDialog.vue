<script setup lang="ts">
import { marked } from 'marked'
import { useView } from '~/document/view'
import { findIn, guideFor, guideOrder, pageOf, type GuidePage } from './guide'
import { phrase } from '~/parts/phrase'

/** The guide beside the work: the page that helps in this area, all others by their words. */
const view = useView()
const files = import.meta.glob<string>('../../docs/guide/*.md', { query: '?raw', import: 'default' })
const pictures = import.meta.glob<string>('../../docs/screenshots/*.png', { query: '?url', import: 'default' })
const pages = shallowRef<GuidePage[]>([])
const html = ref('')
const text = ref('')
const failed = ref(false)
const found = computed(() => findIn(pages.value, text.value))
const shown = computed(() => pages.value.find(p => p.id === view.guide) ?? null)

async function load() {
  failed.value = false
  try {
    pages.value = await Promise.all(guideOrder.map(async id =>
      pageOf(id, await files[`../../docs/guide/${id}.md`]!())))
  }
  catch { failed.value = true }
}
/** The pages again, and with them the one that is read. */
const retry = () => {
  pages.value = []
  return load()
}
/** A page as it is shown: pictures from where the application has them. */
async function render({ text }: GuidePage): Promise<string> {
  let page = await marked.parse(text)
  // what leads out of the guide is text here
  page = page.replace(/<a href="(?![\w-]+\.md")[^"]*">(.*?)<\/a>/g, '$1')
  for (const [, name] of text.matchAll(/\(\.\.\/screenshots\/([\w-]+\.png)\)/g)) {
    const url = await pictures[`../../docs/screenshots/${name}`]?.()
    if (url) page = page.replaceAll(`../screenshots/${name}`, url)
  }
  return page
}
watch(() => view.guide, (id) => {
  if (id !== null && !pages.value.length) void load()
}, { immediate: true })
watch(shown, async (page) => {
  if (!page) return
  try {
    const made = await render(page)
    // a page that was picked meanwhile is the one that is read
    if (page === shown.value) html.value = made
  }
  catch { failed.value = true }
})
/** A link to another page opens it here. */
function follow(event: MouseEvent) {
  const link = (event.target as HTMLElement).closest('a')
  if (!link) return
  event.preventDefault()
  const id = /^([\w-]+)\.md$/.exec(link.getAttribute('href') ?? '')?.[1]
  if (guideOrder.some(known => known === id)) view.guide = id!
}
</script>

<template>
  <ModalDialog
    :open="view.guide !== null"
    :title="phrase('frame.guide')"
    width="60rem"
    closable
    @close="view.guide = null"
  >
    <div class="guide">
      <nav :aria-label="phrase('frame.pagesOfTheGuide')">
        <FindField
          v-model:value="text"
          :label="phrase('frame.searchTheGuide')"
          :placeholder="phrase('common.search')"
          beside
        />
        <button
          v-for="{ page, line } in found"
          :key="page.id"
          class="plain"
          :class="{ on: page.id === view.guide }"
          :aria-current="page.id === view.guide ? 'page' : undefined"
          @click="view.guide = page.id"
        >
          {{ page.title }}<span
            v-if="line"
            class="soft small"
          >{{ line }}</span>
        </button>
        <p
          v-if="pages.length && !found.length"
          class="soft small"
        >
          {{ phrase('frame.nothingFound') }}
        </p>
        <button
          v-if="shown && guideFor[view.area] !== shown.id"
          class="plain small"
          @click="view.guide = guideFor[view.area]"
        >
          <u>{{ phrase('frame.forThisScreen') }}</u>
        </button>
      </nav>
      <p
        v-if="failed"
        class="sentence error"
        role="alert"
      >
        {{ phrase('frame.theGuideDidNot') }} <button
          class="plain"
          @click="retry"
        >
          <u>{{ phrase('common.retry') }}</u>
        </button>
      </p>
      <!-- eslint-disable vue/no-v-html -- the guide is the application's own text, shipped with it -->
      <article
        v-else
        tabindex="0"
        data-testid="guide-page"
        @click="follow"
        v-html="html"
      />
      <!-- eslint-enable vue/no-v-html -->
    </div>
  </ModalDialog>
</template>

<style scoped>
.guide {
  display: grid;
  grid-template-columns: 13rem minmax(0, 1fr);
  gap: 1.2rem;
  height: min(70vh, 44rem);
}
nav {
  display: flex;
  flex-direction: column;
  gap: 0.25rem;
  overflow-y: auto;
}
nav button {
  text-align: left;
  padding: 0.4rem 0.5rem;
}
nav button span {
  display: block;
}
nav .on {
  background: var(--panel);
  font-weight: 650;
}
article {
  overflow-y: auto;
  line-height: 1.5;
  padding-right: 0.6rem;
}
article :deep(img) {
  max-width: 100%;
  border: 1px solid var(--rule);
}
article :deep(h1) {
  font-size: 1.4rem;
  margin: 0 0 0.6rem;
}
article :deep(h2) {
  font-size: 1.1rem;
  margin: 1rem 0 0.3rem;
}
article :deep(p),
article :deep(ul),
article :deep(ol) {
  margin: 0.5rem 0;
}
article :deep(li) {
  margin: 0.3rem 0;
}
article :deep(table) {
  border-collapse: collapse;
}
article :deep(th),
article :deep(td) {
  text-align: left;
  vertical-align: top;
  padding: 0.3rem 0.6rem 0.3rem 0;
  border-bottom: 1px solid var(--rule);
}
@media (max-width: 760px) {
  .guide {
    grid-template-columns: minmax(0, 1fr);
    height: auto;
  }
}
</style>
