<script setup lang="ts">
import { message } from '~~/core/words'
import type { BackupCheck } from '~~/core/contract'
import { counted } from '~~/core/units'
import { agoOf, fateOf, sizeOf, stateOf, useBackups } from './useBackups'
import { useNotices } from '~/parts/notices'

/** Backups of everything: how old the newest is, how they are kept, and how one is put back. */
const emit = defineEmits<{ back: [] }>()
const notices = useNotices()
const { state, trouble, busy, load, make, keep, look, putBack } = useBackups()
onMounted(load)

const newest = computed(() => state.value?.files[0] ?? null)
/** The backup that may be put back, with what is in it. */
const chosen = shallowRef<{ file: File, holds: BackupCheck } | null>(null)
const replace = ref(false)
async function choose(file: File) {
  const holds = await look(file)
  replace.value = false
  if (holds) chosen.value = { file, holds }
}
async function restore() {
  const { file } = chosen.value!
  chosen.value = null
  const answer = await putBack(file, replace.value)
  if (!answer) return
  notices.say('info', message('backup.restored', { sites: answer.restored.length, left: answer.left.length }))
  emit('back')
}
const ages = [
  { value: null, label: 'for ever' },
  { value: 30, label: '30 days' },
  { value: 90, label: '90 days' },
  { value: 365, label: 'a year' },
]
</script>

<template>
  <section
    class="panel"
    aria-labelledby="backup-heading"
  >
    <h2 id="backup-heading">
      Backup
    </h2>
    <p
      v-if="trouble"
      class="sentence warn"
    >
      {{ trouble }}
    </p>
    <template v-if="state">
      <p data-testid="backup-age">
        <template v-if="newest">
          The newest is from {{ agoOf(newest.at) }} ({{ new Date(newest.at).toLocaleString() }}), {{
            sizeOf(newest.bytes) }}, read back and whole. {{ state.files.length }} in {{ state.folder }}.
        </template>
        <template v-else>
          There is none yet. Everything (sites, history, deleted things, takes) goes into one file.
        </template>
      </p>
      <p
        v-if="state.why"
        class="sentence error"
      >
        The last one could not be made. {{ state.why }}
      </p>
      <div class="row">
        <ActionButton
          label="Back up now"
          severity="secondary"
          :disabled="busy !== null"
          @click="make"
        />
        <a
          class="download"
          href="/api/backup"
          download
        >Download a backup</a>
        <FileField
          label="Restore a backup …"
          accept=".gz,application/gzip"
          @pick="choose($event[0]!)"
        />
        <span
          v-if="busy"
          class="soft"
          role="status"
        >{{ busy }}</span>
      </div>
      <FoldSection
        id="backup-keeping"
        title="How it is kept"
      >
        <div class="fields">
          <CheckField
            label="make one every day"
            :value="state.keeping.daily"
            @change="keep({ daily: $event })"
          />
          <ChoiceField
            label="Daily ones that stay"
            layout="beside"
            :value="state.keeping.keep"
            :options="[3, 7, 14, 30].map(n => ({ value: n, label: `${n}` }))"
            :placeholder="String(state.keeping.keep)"
            @change="keep({ keep: $event })"
          />
          <TextField
            label="Folder of your own"
            layout="beside"
            :value="state.keeping.folder ?? ''"
            :maxlength="1000"
            @change="keep({ folder: $event.trim() || null })"
          />
          <p class="soft small">
            Another disk is best: /media/… for example. Empty: the folder of Kovrin’s data.
          </p>
          <ChoiceField
            label="Lines of the sites’ logs stay"
            layout="beside"
            :value="state.keeping.logDays"
            :options="ages"
            :placeholder="`${state.keeping.logDays} days`"
            @change="keep({ logDays: $event })"
          />
        </div>
      </FoldSection>
    </template>
    <AskDialog
      :open="chosen !== null"
      title="Restore this backup?"
      yes="Restore"
      @yes="restore"
      @close="chosen = null"
    >
      <p>
        “{{ chosen?.file.name }}” was made {{ chosen && new Date(chosen.holds.at).toLocaleString() }} and is whole.
        Nothing is sent to any device by it.
      </p>
      <dl class="holds">
        <template
          v-for="held in chosen?.holds.sites"
          :key="held.id"
        >
          <dt>
            <b>{{ held.name }}</b> {{ fateOf(held, replace) }}
          </dt>
          <dd class="soft small">
            In the backup: {{ stateOf(held) }}
            <template v-if="held.temporary">
              <br>{{ counted(held.temporary, 'temporary setting') }} of then: restored to the value before
            </template>
            <template v-if="held.here">
              <br>{{ held.here.deleted ? 'Here, deleted' : 'Here' }}: {{ stateOf(held.here) }}
            </template>
          </dd>
        </template>
      </dl>
      <CheckField
        v-if="chosen?.holds.sites.some(held => held.here)"
        v-model:value="replace"
        label="sites that are here already make room for those of the backup"
      />
    </AskDialog>
  </section>
</template>

<style scoped>
.holds {
  margin: 0.7rem 0;
  max-height: 40vh;
  overflow: auto;
}
dt {
  overflow-wrap: anywhere;
}
dd {
  margin: 0 0 0.5rem;
}
section {
  padding: 0.9rem 1.1rem;
  display: grid;
  gap: 0.6rem;
}
p {
  margin: 0;
}
.fields {
  display: grid;
  gap: 0.4rem;
  max-width: 34rem;
}
.download {
  padding: 0.3rem 0.7rem;
  border: 1px solid var(--rule-strong);
  border-radius: 3px;
  text-decoration: none;
}
@media (pointer: coarse) {
  .download {
    min-height: 44px;
    padding-block: 0.7rem;
  }
}
</style>
