import type { Edit } from '../../core/documents'
import { actorOf, type Outcome } from '../store/actor'
import { drive } from './links'

/**
 * Lets settings that were edited live go on to their devices, also those that the draft held already and the
 * device may not. Gives which
 * are there now, as `device/path`, and the first reason for what is not.
 */
export async function sendLive(site: string, edits: readonly Pick<Edit, 'document' | 'path'>[], outcome: Outcome) {
  const byDevice = new Map<string, string[]>()
  for (const { document, path } of edits) {
    if (!document.startsWith('settings/') || path === '') continue
    const device = document.slice('settings/'.length)
    byDevice.set(device, [...(byDevice.get(device) ?? []), path])
  }
  const number = outcome.ok ? (outcome.changes.at(-1)?.number ?? actorOf(site).number) : 0
  const reports = await Promise.all(
    [...byDevice].map(async ([device, paths]) => ({
      device,
      report: await drive(site, device, { paths: [...new Set(paths)], readBack: false, number }),
    })),
  )
  return {
    sent: reports.flatMap(({ device, report }) => report.sent.map(path => `${device}${path}`)),
    why: reports.flatMap(r => r.report.left)[0]?.why ?? null,
  }
}
