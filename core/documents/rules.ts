import * as v from 'valibot'
import { endpointKey, type Wiring } from '../rig'
import { documentKinds, splitKey, type DocumentKey, type Documents } from './kinds'
import { planFaults } from './planFaults'
import { allOf, contentOf } from './site'
import { equal } from '../units'
import { message, type Message, phrase } from '../words'

/** A document as its schema reads it, or what is wrong with it in one sentence. */
export function readDocument(
  key: DocumentKey,
  content: unknown,
): { ok: true, content: unknown } | { ok: false, why: Message } {
  const at = splitKey(key)
  if (!at) return { ok: false, why: message('edit.noDocument', { document: key.slice(0, 80) }) }
  const read = v.safeParse(documentKinds[at.kind].schema, content)
  if (!read.success) {
    const faults = read.issues.slice(0, 3).map((i) => {
      const where = v.getDotPath(i)
      return where ? `${where}: ${i.message}` : i.message
    })
    const name = phrase(documentKinds[at.kind].name)
    return { ok: false, why: message('document.notPossible', { kind: name, why: faults.join('; ') }) }
  }
  const own = (read.output as { id?: unknown }).id
  if (own !== undefined && own !== at.id) {
    return { ok: false, why: message('document.ownKey', { kind: phrase(documentKinds[at.kind].name) }) }
  }
  return { ok: true, content: read.output }
}

/** Why cables cannot be: they run in a circle from device to device. */
function circles({ cables }: Wiring): Message[] {
  const into = new Map<string, Set<string>>()
  for (const [input, output] of Object.entries(cables)) {
    const device = input.slice(0, input.lastIndexOf(':'))
    into.set(device, (into.get(device) ?? new Set()).add(output.device))
  }
  const state = new Map<string, 'open' | 'done'>()
  const closes = (device: string): boolean => {
    if (state.get(device) === 'open') return true
    if (state.get(device) === 'done') return false
    state.set(device, 'open')
    const circle = [...(into.get(device) ?? [])].some(closes)
    state.set(device, 'done')
    return circle
  }
  return [...into.keys()].some(closes) ? [message('wiring.circle')] : []
}

/** Drives and cables that name what is not there. */
function looseEnds(documents: Documents, wiring: Wiring): Message[] {
  const drives = Object.keys(wiring.drives).flatMap((key) => {
    const [source, element, band] = key.split(':')
    const cabinet = contentOf(documents, 'source', source)?.elements[Number(element)]
    const name = contentOf(documents, 'source', source)?.name
    if (name === undefined) return [message('wiring.noSource')]
    if (!cabinet) return [message('wiring.noCabinet', { cabinet: Number(element) + 1, source: name })]
    const sheet = contentOf(documents, 'sheet', cabinet.sheet)
    return sheet?.bands.some(b => b.id === band) ? [] : [message('wiring.noBand', { source: name })]
  })
  const cables = Object.entries(wiring.cables).flatMap(([input, output]) => {
    const [device, channel] = input.split(':') as [string, string]
    const to = contentOf(documents, 'device', device)
    if (to && Number(channel) >= to.capability.inputs.length)
      return [message('wiring.noInput', { device: to.name, input: Number(channel) + 1 })]
    if (endpointKey(output) === input) return [message('wiring.oneEnd')]
    return []
  })
  const sheetName = (id: string) => contentOf(documents, 'sheet', id)?.name ?? phrase('documents.aLoudspeakerSheet')
  const follows = Object.values(wiring.follows ?? {}).flatMap(({ sheet, band }) =>
    contentOf(documents, 'sheet', sheet)?.bands.some(b => b.id === band)
      ? []
      : [message('wiring.noFollowed', { sheet: sheetName(sheet) })])
  return [...drives, ...cables, ...follows]
}

/**
 * Why the documents of a site cannot stand beside each other after some were touched. Empty when they can.
 */
export function siteFaults(documents: Documents, touched: readonly DocumentKey[]): Message[] {
  const kinds = new Set(touched.map(k => splitKey(k)?.kind))
  const any = (...names: string[]) => names.some(n => kinds.has(n as 'plan'))
  const faults: Message[] = []
  const plan = contentOf(documents, 'plan')
  if (plan && any('plan', 'area', 'source', 'position')) {
    const standing = {
      areas: allOf(documents, 'area'),
      sources: allOf(documents, 'source'),
      positions: allOf(documents, 'position'),
    }
    faults.push(...planFaults(plan, standing))
  }
  if (any('source', 'sheet')) {
    faults.push(
      ...allOf(documents, 'source').flatMap(s =>
        s.elements.flatMap(e =>
          contentOf(documents, 'sheet', e.sheet) ? [] : [message('site.noSheet', { source: s.name })],
        ),
      ),
    )
  }
  if (any('group', 'device')) {
    faults.push(...allOf(documents, 'group').flatMap(g => g.members.flatMap((m) => {
      const device = contentOf(documents, 'device', m.device)
      return device && !device.capability.outputs[m.channel]
        ? [message('group.noOutput', { group: g.name, output: m.channel + 1, device: device.name })]
        : []
    })))
  }
  const wiring = contentOf(documents, 'wiring')
  if (wiring && any('wiring', 'source', 'sheet', 'device')) {
    faults.push(...looseEnds(documents, wiring), ...circles(wiring))
  }
  return [...faults.filter((f, k) => faults.findIndex(o => equal(o, f)) === k), ...lostTakes(documents, touched)]
}

/** Takes whose source or position was just taken away. */
function lostTakes(documents: Documents, touched: readonly DocumentKey[]): Message[] {
  const gone = touched
    .filter(k => documents[k] === undefined && /^(source|position)\//.test(k))
    .map(k => splitKey(k)!)
  if (!gone.length) return []
  const takes = allOf(documents, 'take')
  return gone.flatMap(({ kind, id }) => {
    const count = takes.filter(t => t[kind as 'source' | 'position'] === id).length
    return count ? [message('document.hasTakes', { takes: count })] : []
  })
}
