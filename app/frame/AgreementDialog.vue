<script setup lang="ts">
/** The one question before a step that everybody in the hall would hear. */
const agreement = useAgreement()
</script>

<template>
  <ModalDialog
    :open="agreement.question !== null"
    title="Louder at once?"
    :closable="false"
    @close="agreement.answer(false)"
  >
    <p data-testid="question">
      {{ agreement.question?.text }}
    </p>
    <template #footer>
      <ActionButton
        severity="secondary"
        label="Leave it"
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
</style>
