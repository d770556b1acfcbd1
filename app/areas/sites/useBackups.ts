import type { BackupCheck, BackupFile, BackupsAnswer, Keeping, RestoreAnswer } from '~~/core/contract'
import { ask, usePatience } from '~/document/api'
import { useNotices } from '~/parts/notices'
import { message } from '~~/core/words'
import { phrase } from '~/parts/phrase'

/** The backups of this installation, and what can be done with them. */
export function useBackups() {
  const notices = useNotices()
  const patiently = usePatience()
  const state = ref<BackupsAnswer | null>(null)
  const trouble = ref<string | null>(null)
  /** What is being done now, in words. */
  const busy = ref<string | null>(null)

  async function load() {
    try {
      const told = await patiently(() => ask<BackupsAnswer>('/api/backups'), who => (trouble.value = who))
      if (!told) return
      state.value = told
      trouble.value = null
    }
    catch (error) { trouble.value = (error as Error).message }
  }
  async function doing<T>(words: string, work: () => Promise<T>): Promise<T | null> {
    busy.value = words
    try {
      return await work()
    }
    catch (error) {
      notices.fail(error)
      return null
    }
    finally {
      busy.value = null
      await load()
    }
  }
  const make = async () => {
    const made = await doing(phrase('sites.makingABackupAnd'), () =>
      ask<BackupFile>('/api/backups', { method: 'POST' }))
    if (made) notices.say('info', message('backup.made', { name: made.name }))
  }
  const keep = (change: Partial<Keeping>) => {
    const body = { ...state.value!.keeping, ...change }
    return doing(phrase('sites.keeping'), () => ask<Keeping>('/api/backups', { method: 'PUT', body }))
  }
  const look = (file: File) =>
    doing(
      phrase('sites.readingTheBackup'),
      () => ask<BackupCheck>('/api/backup/check', { method: 'POST', bytes: file }),
    )
  const putBack = (file: File, replace: boolean) => {
    const path = `/api/restore?replace=${replace}`
    return doing(phrase('sites.restoring'), () => ask<RestoreAnswer>(path, { method: 'POST', bytes: file }))
  }

  return { state, trouble, busy, load, make, keep, look, putBack }
}

type Held = BackupCheck['sites'][number]

/** What becomes of a site of a backup that is put back. */
export const fateOf = ({ here }: Held, replace: boolean): string => {
  if (!here) return phrase('sites.comesBack')
  return replace ? phrase('sites.isReplacedWhatIs') : phrase('sites.isHereAlreadyAnd')
}
/** How much a site has, and when it was last changed. */
export function stateOf({ takes, changes, last }: Pick<Held, 'takes' | 'changes' | 'last'>): string {
  const when = last === null
    ? phrase('sites.neverChanged')
    : phrase('sites.lastChanged', {
        at: new Date(last).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' }),
      })
  return `${phrase('sites.take', { takes })}, ${phrase('sites.change', { changes })}, ${when}`
}

/** So long ago, in the largest unit that fits. */
export function agoOf(at: string, now = Date.now()): string {
  const hours = (now - Date.parse(at)) / 3_600_000
  const words = new Intl.RelativeTimeFormat('en', { numeric: 'auto' })
  if (hours < 1) return words.format(-Math.floor(hours * 60), 'minute')
  return hours < 48 ? words.format(-Math.floor(hours), 'hour') : words.format(-Math.floor(hours / 24), 'day')
}
export const sizeOf = (bytes: number) =>
  bytes < 1e6 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`
