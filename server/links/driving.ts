import { randomUUID } from 'node:crypto'
import { contentOf, draftOf, type Documents } from '../../core/documents'
import { differences, parametersOf, rampOf, showParameter, valueAt } from '../../core/rig'
import { actorOf } from '../store/actor'
import { onBus, serverId, tellServers } from '../store/bus'
import { complain as complainOf } from '../store/client'
import type { SendOutcome } from './link'
import { lookAtDevices, ownedOf, type Owned } from './links'

const complain = (error: unknown) => complainOf('Links', error)

/** What a server that owns a link is asked to do with its device; `number` is the change that it must know of first. */
export interface LinkCommand {
  /** Parameters whose draft shall go out; null: all that differ from what the device holds. */
  paths: string[] | null
  /** Says what the device does not hold all the same. */
  readBack: boolean
  number: number
}
export interface SendReport {
  sent: string[]
  left: { path: string, why: string }[]
}

/** Drives a device. What is read back afterwards stays wished until the device is known to hold it, or not to. */
async function carryOut(mine: Owned, command: LinkCommand): Promise<SendReport> {
  const { site, device, link, wished } = mine
  const { paths, readBack, number } = command
  const actor = actorOf(site)
  if (actor.number < number) await actor.follow()
  const mirror = await actor.read()
  const record = mirror && contentOf(mirror.documents, 'device', device)
  if (!record) return { sent: [], left: [] }
  const { capability } = record
  const draft = draftOf(mirror.documents, device)
  const held = contentOf(mirror.documents, 'held', device)
  const wanted = paths ?? (held ? differences(capability, held, draft).map(d => d.path) : [])
  const sent = new Map(wanted.map(path => [path, valueAt(capability, draft, path)]))
  if (readBack) for (const [path, to] of sent) wished.set(path, to)
  try {
    const outcomes = await Promise.all(
      [...sent].map(async ([path, to]): Promise<[string, SendOutcome]> => {
        const parameter = parametersOf(capability).get(path)
        const ramp = parameter ? rampOf(parameter, held && valueAt(capability, held, path), to) : []
        return [path, await link.wish(path, to, ramp)]
      }),
    )
    const report: SendReport = {
      sent: outcomes.filter(([, o]) => o.ok).map(([path]) => path),
      left: outcomes.flatMap(([path, o]) => (o.ok ? [] : [{ path, why: o.why }])),
    }
    if (readBack && report.sent.length) await compareBack(site, device, report)
    return report
  }
  finally {
    for (const [path, to] of sent) if (wished.get(path) === to) wished.delete(path)
  }
}

/** Takes out of the report what a device does not really hold: what was written was read back with it. */
async function compareBack(site: string, device: string, report: SendReport) {
  const mirror = await actorOf(site).read()
  if (!mirror) return
  const { capability } = contentOf(mirror.documents, 'device', device)!
  const held = contentOf(mirror.documents, 'held', device) ?? {}
  const wrong = new Set(differences(capability, held, draftOf(mirror.documents, device)).map(d => d.path))
  report.left.push(
    ...report.sent.filter(p => wrong.has(p)).map(path => ({
      path, why: `The device holds ${showParameter(capability, path, valueAt(capability, held, path))} all the same.`,
    })),
  )
  report.sent = report.sent.filter(p => !wrong.has(p))
}

const answerTime = 6000
/** Milliseconds after which it is looked whether the owner of a link is still there. */
const ownerSilent = 400
const asked = new Map<string, (report: SendReport) => void>()
onBus((message) => {
  if (message.kind === 'answer' && message.to === serverId) asked.get(message.id)?.(message.answer as SendReport)
  if (message.kind !== 'ask' || message.from === serverId) return
  const mine = ownedOf(message.site, message.device)
  if (!mine) return
  carryOut(mine, message.command as LinkCommand)
    .then(answer => tellServers({ kind: 'answer', id: message.id, from: serverId, to: message.from, answer }))
    .catch(complain)
})

/** Most paths that go into one message between servers. */
const mostPaths = 100

/** Has a device driven by whichever server owns its link. */
export async function drive(site: string, device: string, command: LinkCommand): Promise<SendReport> {
  const mine = ownedOf(site, device)
  if (mine) return carryOut(mine, command)
  const mirror = await actorOf(site).read()
  if (!mirror || contentOf(mirror.documents, 'link', device)?.state !== 'live')
    return { sent: [], left: notDriven(mirror?.documents ?? {}, device, command.paths ?? ['']) }
  return askOwner(site, device, command)
}

/** What is said of settings of a device that is not there to take them. */
export function notDriven(now: Documents, device: string, paths: readonly string[]): SendReport['left'] {
  const link = contentOf(now, 'link', device)
  const why
    = link?.state === 'elsewhere' ? (link.why ?? '') : 'The device is not connected: the change is kept as a draft.'
  return paths.map(path => ({ path, why }))
}

/** Has the owner of a device's link do it; when there is none any more, whoever takes the link over does. */
async function askOwner(site: string, device: string, command: LinkCommand): Promise<SendReport> {
  const id = randomUUID()
  const paths = command.paths && command.paths.length > mostPaths ? null : command.paths
  const begun = Date.now()
  let timer: NodeJS.Timeout | undefined
  const answer = new Promise<SendReport>((resolve, reject) => {
    asked.set(id, resolve)
    timer = setInterval(() => {
      const mine = ownedOf(site, device)
      const waited = Date.now() - begun
      if (mine?.link.state === 'live') {
        // once: it may take longer than until the next look
        clearInterval(timer)
        carryOut(mine, command).then(resolve, reject)
      }
      else if (waited > answerTime) resolve(unanswered(command))
      else if (waited > ownerSilent) void lookAtDevices()
    }, 100)
  })
  await tellServers({ kind: 'ask', id, from: serverId, site, device, command: { ...command, paths } })
  return answer.finally(() => {
    clearInterval(timer)
    asked.delete(id)
  })
}
const unanswered = ({ paths }: LinkCommand): SendReport => ({
  sent: [],
  left: (paths ?? ['']).map(path => ({
    path,
    why: 'The device did not answer in time: the change is kept as a draft.',
  })),
})
