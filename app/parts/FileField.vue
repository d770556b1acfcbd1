<script setup lang="ts">
/** Picks a file, or several; the same one can be picked again. */
withDefaults(
  defineProps<{ label: string, accept: string, name?: string | undefined, multiple?: boolean }>(),
  { name: undefined },
)
const emit = defineEmits<{ pick: [files: File[]] }>()
function pick(event: Event) {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  input.value = ''
  if (files.length) emit('pick', files)
}
</script>

<template>
  <label class="file"><input
    type="file"
    :accept="accept"
    :multiple="multiple"
    :aria-label="name ?? label"
    @change="pick"
  ><span>{{ label }}</span></label>
</template>

<style scoped>
.file {
  position: relative;
}
.file input {
  position: absolute;
  opacity: 0;
  width: 1px;
  height: 1px;
}
.file span {
  display: inline-block;
  border: 1px solid var(--rule-strong);
  border-radius: 3px;
  padding: 0.3rem 0.7rem;
  cursor: pointer;
}
.file input:focus-visible + span {
  outline: 2px solid var(--accent);
}
@media (pointer: coarse) {
  .file span {
    min-height: 44px;
    padding-block: 0.7rem;
  }
}
</style>
