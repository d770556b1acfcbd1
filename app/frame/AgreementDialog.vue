<script setup lang="ts">
import { sayRise } from '~~/core/documents'
import { useAgreement } from '~/document/agreement'
import { phrase } from '~/parts/phrase'

/** The one question before a step that everybody in the hall would hear. */
const agreement = useAgreement()
const most = 8
const shown = computed(() => agreement.question?.rises.slice(0, most) ?? [])
const more = computed(() => (agreement.question?.rises.length ?? 0) - shown.value.length)
</script>

<template>
  <ModalDialog
    :open="agreement.question !== null"
    :title="agreement.question?.title ?? ''"
    :closable="false"
    @close="agreement.answer(false)"
  >
    <p data-testid="question">
      {{ agreement.question?.text }}
    </p>
    <ul
      v-if="shown.length"
      data-testid="rises"
    >
      <li
        v-for="rise in shown"
        :key="rise.key"
        :class="{ danger: rise.kind !== 'louder' }"
      >
        {{ sayRise(rise) }}
      </li>
    </ul>
    <p v-if="more > 0">
      {{ phrase('frame.andMore', { more }) }}
    </p>
    <template #footer>
      <ActionButton
        severity="secondary"
        :label="phrase('common.cancel')"
        autofocus
        @click="agreement.answer(false)"
      />
      <ActionButton
        severity="danger"
        :label="agreement.question?.yes"
        @click="agreement.answer(true)"
      />
    </template>
  </ModalDialog>
</template>

<style scoped>
p {
  margin: 0;
}
ul {
  margin: 0.6rem 0 0;
  padding-left: 1.2rem;
}
.danger {
  color: var(--warn);
  font-weight: 600;
}
</style>
