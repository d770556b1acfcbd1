import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'

/** The usual key of each command that has one. */
export const usualKeys = {
  noise: 'n',
  hush: '.',
  take: 't',
  find: 'f',
  restart: 'r',
  sweep: 'w',
  mode: 'l',
  undo: 'z',
  redo: 'y',
  theme: 'd',
  guide: '?',
  keys: 'k',
  palette: '/',
  only: 'o',
  over: 'v',
  inputs: 'i',
  ledger: 'g',
  other: 'x',
  target: 'e',
} as const
export type KeyedCommand = keyof typeof usualKeys

/** The keys of this user's own choice; remembered by this browser. */
export const useKeys = defineStore('keys', () => {
  const own = useLocalStorage<Record<string, string>>('kovrin-keys', {})
  const all = computed<Record<string, string>>(() => ({ ...usualKeys, ...own.value }))
  return {
    all,
    own,
    of: (id: string): string | null => all.value[id] || null,
    /** As it stands in a sentence or a sign. */
    shown: (id: string) => all.value[id]?.toUpperCase() ?? '',
    /** Behind what a button does. */
    sign: (id: string) => (all.value[id] ? ` (${all.value[id].toUpperCase()})` : ''),
    /** Gives a command a key; whoever had it loses it. */
    set: (id: string, key: string): string | null => {
      const loser = Object.keys(all.value).find(k => k !== id && all.value[k] === key)
      own.value = { ...own.value, ...(loser ? { [loser]: '' } : {}), [id]: key }
      return loser ?? null
    },
    reset: () => {
      own.value = {}
    },
  }
})
