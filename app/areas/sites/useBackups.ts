import type { BackupCheck, BackupFile, BackupsAnswer, Keeping, RestoreAnswer } from '~~/core/contract'
import { counted } from '~~/core/units'
import { ask, usePatience } from '~/utils/api'

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
    const made = await doing('Making a backup and reading it back …', () =>
      ask<BackupFile>('/api/backups', { method: 'POST' }))
    if (made) notices.say('info', `The backup ${made.name} was made, read back and is whole.`)
  }
  const keep = (change: Partial<Keeping>) => {
    const body = { ...state.value!.keeping, ...change }
    return doing('Keeping …', () => ask<Keeping>('/api/backups', { method: 'PUT', body }))
  }
  const look = (file: File) =>
    doing('Reading the backup …', () => ask<BackupCheck>('/api/backup/check', { method: 'POST', bytes: file }))
  const putBack = (file: File, replace: boolean) => {
    const path = `/api/restore?replace=${replace}`
    return doing('Putting back …', () => ask<RestoreAnswer>(path, { method: 'POST', bytes: file }))
  }

  return { state, trouble, busy, load, make, keep, look, putBack }
}

/** What becomes of a site of a backup that is put back, in words. */
export function fateOf({ takes, changes, last, here }: BackupCheck['sites'][number], replace: boolean): string {
  const told = (state: { last: string | null }) =>
    (state.last === null ? 'never changed' : `last changed ${new Date(state.last).toLocaleString()}`)
  const held = `${counted(takes, 'take')}, ${counted(changes, 'change')}, ${told({ last })}`
  if (!here) return `${held}. It is not here: it comes back.`
  const own = `${here.deleted ? 'deleted here' : 'here'}, ${counted(here.takes, 'take')}, `
    + `${counted(here.changes, 'change')}, ${told(here)}`
  return replace
    ? `${held}. It replaces the one that is ${own}: that one is gone then, with its history.`
    : `${held}. Nothing changes: one is ${own}, and stays.`
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
