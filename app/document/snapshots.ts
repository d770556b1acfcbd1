import { defineStore } from 'pinia'
import type { Capability, Snapshot, Then } from '~~/core/rig'
import { ask, patiently } from './api'
import { useNotices } from '~/parts/notices'

/** What takes were made with, by their hashes: fetched when first asked for, kept as long as the page is open. */
export const useSnapshots = defineStore('snapshots', () => {
  const notices = useNotices()
  const known = shallowRef<ReadonlyMap<string, Then>>(new Map())
  const capabilities = new Map<string, Capability>()
  const asked = new Set<string>()

  /** Hashes of what could not be read yet. */
  const lacking = shallowRef<ReadonlySet<string>>(new Set())

  const asking = <T>(hashes: readonly string[]) =>
    ask<Record<string, T>>('/api/contents', { method: 'POST', reads: true, body: { hashes } })
  const contents = async <T>(hashes: readonly string[]) =>
    (await patiently(() => asking<T>(hashes), () => {
      lacking.value = new Set([...lacking.value, ...hashes])
      return true
    }))!

  async function fetch(hashes: readonly string[]) {
    const found = await contents<Snapshot>(hashes)
    const missing = Object.values(found).flatMap(s => Object.values(s.devices).map(d => d.capability))
      .filter((h, k, all) => !capabilities.has(h) && all.indexOf(h) === k)
    if (missing.length) {
      for (const [hash, c] of Object.entries(await contents<Capability>(missing))) capabilities.set(hash, c)
    }
    const next = new Map(known.value)
    for (const [hash, { from, cables, drives, devices }] of Object.entries(found)) {
      const whole = Object.entries(devices).map(([id, { capability, settings }]) =>
        [id, { capability: capabilities.get(capability)!, settings }])
      next.set(hash, { from, rig: { wiring: { cables, drives }, devices: Object.fromEntries(whole) } })
    }
    known.value = next
    lacking.value = new Set([...lacking.value].filter(h => !next.has(h) && !capabilities.has(h)))
  }

  /** Sees to it that these are known soon. */
  function want(hashes: readonly string[]) {
    const fresh = [...new Set(hashes)].filter(h => !asked.has(h))
    if (!fresh.length) return
    for (const hash of fresh) asked.add(hash)
    fetch(fresh).catch((error: unknown) => {
      for (const hash of fresh) asked.delete(hash)
      lacking.value = new Set([...lacking.value, ...fresh])
      notices.fail(error)
    })
  }
  return { known, lacking, want }
})
