import { contentOf, draftOf, heldOf, type Documents, type Edit } from '../../core/documents'
import { parametersOf, riseOf, valueAt } from '../../core/rig'
import { inTurns } from '../utils/turns'
import type { Passage } from '../store/gate'
import { actorOf, type Outcome } from '../store/actor'
import { drive, notDriven, type SendReport } from './driving'

/** What shall go to a device. */
export interface Delivery {
  device: string
  paths: readonly string[]
}

/** Paths of a device in two halves: what only gets quieter, and what may get louder. */
function* halves(now: Documents, { device, paths }: Delivery): Generator<void, [string[], string[]]> {
  const capability = contentOf(now, 'device', device)?.capability
  if (!capability || paths.length < 2) return [[], [...paths]]
  const [held, draft] = [heldOf(now, device), draftOf(now, device)]
  const quieter: string[] = []
  const louder: string[] = []
  for (const path of paths) {
    const parameter = parametersOf(capability).get(path)
    const values = { from: valueAt(capability, held, path), to: valueAt(capability, draft, path) }
    const isQuieter = parameter && riseOf({ parameter, ...values }, capability.sampleRate) < 0.01
    ;(isQuieter ? quieter : louder).push(path)
    yield
  }
  return [quieter, louder]
}

/**
 * Has devices take over drafts that a passage let through: on all of them first what gets quieter, then the rest.
 * Devices that were not there when it was judged get nothing.
 */
export async function deliver(
  passage: Passage,
  deliveries: readonly Delivery[],
  { readBack, number }: { readBack: boolean, number: number },
): Promise<(SendReport & { device: string })[]> {
  const { site } = passage
  const mirror = await actorOf(site).read()
  const reports = new Map(deliveries.map(d => [d.device, { device: d.device, sent: [], left: [] } as
    SendReport & { device: string }]))
  const there = deliveries.filter(d => passage.devices.has(d.device))
  for (const { device, paths } of deliveries) {
    if (passage.devices.has(device) || !mirror) continue
    reports.get(device)!.left.push(...notDriven(mirror.documents, device, paths))
  }
  const split = mirror
    ? await Promise.all(there.map(async d => ({ ...d, halves: await inTurns(halves(mirror.documents, d)) })))
    : []
  for (const half of [0, 1] as const) {
    await Promise.all(split.filter(d => d.halves[half].length).map(async ({ device, halves }) => {
      const { sent, left } = await drive(site, device, { paths: halves[half], readBack, number })
      reports.get(device)!.sent.push(...sent)
      reports.get(device)!.left.push(...left)
    }))
  }
  return [...reports.values()]
}

/**
 * Lets settings that were edited live go on to their devices, also those that the draft held already and the
 * device may not. Gives which are there now, as `device/path`, and the first reason for what is not.
 */
export async function sendLive(passage: Passage, edits: readonly Pick<Edit, 'document' | 'path'>[], outcome: Outcome) {
  const byDevice = new Map<string, Set<string>>()
  for (const { document, path } of edits) {
    if (!document.startsWith('settings/') || path === '') continue
    const device = document.slice('settings/'.length)
    byDevice.set(device, (byDevice.get(device) ?? new Set()).add(path))
  }
  const number = outcome.ok ? (outcome.changes.at(-1)?.number ?? actorOf(passage.site).number) : 0
  const deliveries = [...byDevice].map(([device, paths]) => ({ device, paths: [...paths] }))
  const reports = await deliver(passage, deliveries, { readBack: false, number })
  return {
    sent: reports.flatMap(({ device, sent }) => sent.map(path => `${device}${path}`)),
    why: reports.flatMap(r => r.left)[0]?.why ?? null,
  }
}
