<script setup lang="ts">
import { wordsOf } from '~~/core/words'
import { useNotices, type Notice } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

const notices = useNotices()
function act(n: Notice) {
  n.act?.run()
  notices.drop(n.id)
}
</script>

<template>
  <div
    class="notices"
    role="status"
    aria-live="polite"
  >
    <div
      v-for="n in notices.list"
      :key="n.id"
      class="sentence"
      :class="n.kind"
      :data-notice="n.kind"
    >
      <span>{{ wordsOf(n.told) }}
        <button
          v-if="n.act"
          class="plain act"
          @click="act(n)"
        >
          <u>{{ n.act.name }}</u>
        </button></span>
      <button
        class="plain"
        :aria-label="phrase('frame.dismiss')"
        @click="notices.drop(n.id)"
      >
        <i class="pi pi-times" />
      </button>
    </div>
  </div>
</template>

<style scoped>
.notices {
  position: fixed;
  left: 6px;
  bottom: 112px;
  width: 294px;
  display: grid;
  gap: 0.4rem;
  z-index: 50;
}
@media (max-width: 1100px) {
  .notices {
    left: 6px;
    bottom: 4px;
    width: min(420px, calc(100vw - 12px));
  }
}
.sentence {
  display: flex;
  justify-content: space-between;
  gap: 0.75rem;
  align-items: start;
  border: 1px solid var(--rule-strong);
  border-left-width: 4px;
  background: var(--panel);
}
.plain {
  min-width: 24px;
  min-height: 24px;
}
</style>
