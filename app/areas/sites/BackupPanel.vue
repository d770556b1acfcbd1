<script setup lang="ts">
import { message } from '~~/core/words'
import type { BackupCheck } from '~~/core/contract'
import { agoOf, fateOf, sizeOf, stateOf, useBackups } from './useBackups'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

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
  { value: null, label: phrase('sites.forEver') },
  { value: 30, label: phrase('sites.days') },
  { value: 90, label: phrase('sites.days2') },
  { value: 365, label: phrase('sites.aYear') },
]
</script>

<template>
  <section
    class="panel"
    aria-labelledby="backup-heading"
  >
    <h2 id="backup-heading">
      {{ phrase('sites.backup') }}
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
          {{
            phrase('sites.theNewestIsFrom', {
              ago: agoOf(newest.at),
              at: new Date(newest.at).toLocaleString(),
              size: sizeOf(newest.bytes),
              files: state.files.length,
              folder: state.folder,
            })
          }}
        </template>
        <template v-else>
          {{ phrase('sites.thereIsNoneYet') }}
        </template>
      </p>
      <p
        v-if="state.why"
        class="sentence error"
      >
        {{ phrase('sites.theLastOneCould', { why: state.why }) }}
      </p>
      <div class="row">
        <ActionButton
          :label="phrase('sites.backUpNow')"
          severity="secondary"
          :disabled="busy !== null"
          @click="make"
        />
        <a
          class="download"
          href="/api/backup"
          download
        >{{ phrase('sites.downloadABackup') }}</a>
        <FileField
          :label="phrase('sites.restoreABackup')"
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
        :title="phrase('sites.howItIsKept')"
      >
        <div class="fields">
          <CheckField
            :label="phrase('sites.makeOneEveryDay')"
            :value="state.keeping.daily"
            @change="keep({ daily: $event })"
          />
          <ChoiceField
            :label="phrase('sites.dailyOnesThatStay')"
            layout="beside"
            :value="state.keeping.keep"
            :options="[3, 7, 14, 30].map(n => ({ value: n, label: `${n}` }))"
            :placeholder="String(state.keeping.keep)"
            @change="keep({ keep: $event })"
          />
          <TextField
            :label="phrase('sites.folderOfYourOwn')"
            layout="beside"
            :value="state.keeping.folder ?? ''"
            :maxlength="1000"
            @change="keep({ folder: $event.trim() || null })"
          />
          <p class="soft small">
            {{ phrase('sites.anotherDiskIsBest') }}
          </p>
          <ChoiceField
            :label="phrase('sites.linesOfTheSites')"
            layout="beside"
            :value="state.keeping.logDays"
            :options="ages"
            :placeholder="phrase('sites.days3', { logDays: state.keeping.logDays ?? '' })"
            @change="keep({ logDays: $event })"
          />
        </div>
      </FoldSection>
    </template>
    <AskDialog
      :open="chosen !== null"
      :title="phrase('sites.restoreThisBackup')"
      :yes="phrase('common.restore')"
      @yes="restore"
      @close="chosen = null"
    >
      <p>
        {{
          phrase('sites.wasMadeAndIs', {
            name: chosen?.file.name ?? '',
            at: chosen ? new Date(chosen.holds.at).toLocaleString() : '',
          })
        }}
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
            {{ phrase('sites.inTheBackup', { state: stateOf(held) }) }}
            <template v-if="held.temporary">
              <br>{{ phrase('sites.temporarySettingOfThen', { temporary: held.temporary }) }}
            </template>
            <template v-if="held.here">
              <br>{{ held.here.deleted ? phrase('sites.hereDeleted') : phrase('sites.here') }}: {{ stateOf(held.here) }}
            </template>
          </dd>
        </template>
      </dl>
      <CheckField
        v-if="chosen?.holds.sites.some(held => held.here)"
        v-model:value="replace"
        :label="phrase('sites.sitesThatAreHere')"
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
