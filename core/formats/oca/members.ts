import { knownClassOf, OcaBlock, OcaWorker, type Method, type OcaClass } from '../ocp1'
import { OcaRefused } from './status'
import { rootBlock, type SignalWay } from './tree'

/** Asks an object by one of its methods. Rejects with `OcaRefused` where the device says no. */
export type Ask = (
  object: number, method: Method<readonly unknown[], readonly unknown[]>, values?: readonly unknown[],
) => Promise<readonly unknown[]>

/** The answer; null where the device refuses to give one. */
export async function attempt(asked: Promise<readonly unknown[]>): Promise<readonly unknown[] | null> {
  try {
    return await asked
  }
  catch (error) {
    if (error instanceof OcaRefused) return null
    throw error
  }
}

/** An object as it was found in a device. */
export interface Found {
  number: number
  oca: OcaClass & { name: string }
  /** Its own class id; longer than that of `oca` where it is of a class that nobody here knows. */
  classId: string
  role: string
  label: string
  owner: number
  members: Found[]
}
export const isBlock = ({ oca }: Found) => oca.id === OcaBlock.id
/** Whether it is of that class or stands below it. */
export const isBelow = ({ classId }: Pick<Found, 'classId'>, id: string) =>
  classId === id || classId.startsWith(`${id}.`)

interface Member { object: number, classId: number[], owner: number }
type Listed = { object: number, classIdentification: { classId: number[] } }[]
type Nested = { memberObjectIdentification: Listed[number], container: number }[]
/** Deepest nesting of blocks, and most objects, that are looked at. */
const deepest = 12
const mostObjects = 20_000

/** All members by asking every block for its own; a block that was met is not entered again. */
async function membersBelow(ask: Ask, block: number, met: Set<number>, depth: number): Promise<Member[]> {
  if (depth > deepest || met.has(block)) return []
  met.add(block)
  const [listed] = await ask(block, OcaBlock.methods.GetMembers) as [Listed]
  const here = listed.map(({ object, classIdentification: { classId } }): Member => ({ object, classId, owner: block }))
  const blocks = here.filter(({ classId }) => isBelow({ classId: classId.join('.') }, OcaBlock.id))
  const below = await Promise.all(blocks.map(b => membersBelow(ask, b.object, met, depth + 1)))
  return [...here, ...below.flat()]
}

async function allMembers(ask: Ask): Promise<Member[]> {
  const nested = await attempt(ask(rootBlock, OcaBlock.methods.GetMembersRecursive)) as [Nested] | null
  if (!nested) return membersBelow(ask, rootBlock, new Set(), 0)
  return nested[0].map(({ memberObjectIdentification: { object, classIdentification: { classId } }, container }) =>
    ({ object, classId, owner: container }))
}

/**
 * Every object below the root block with its class, role and label.
 * @returns the root with its members, each in the device's order
 * @throws RangeError for more objects than can be kept in step
 */
export async function findObjects(ask: Ask): Promise<{ root: Found, all: Map<number, Found> }> {
  const members = await allMembers(ask)
  if (members.length > mostObjects) throw new RangeError(`${members.length} objects`)
  const root: Found = {
    number: rootBlock, oca: { ...OcaBlock, name: 'OcaBlock' }, classId: OcaBlock.id, role: '', label: '', owner: 0,
    members: [],
  }
  const all = new Map<number, Found>([[rootBlock, root]])
  await Promise.all(members.map(async ({ object, classId, owner }) => {
    const oca = knownClassOf(classId)
    if (!oca || all.has(object)) return
    const found: Found = { number: object, oca, classId: classId.join('.'), role: '', label: '', owner, members: [] }
    all.set(object, found)
    const { GetLabel } = oca.methods
    const [role, label] = await Promise.all([
      attempt(ask(object, OcaWorker.methods.GetRole)),
      GetLabel ? attempt(ask(object, GetLabel)) : null,
    ])
    found.role = String(role?.[0] ?? '')
    found.label = String(label?.[0] ?? '')
  }))
  for (const { object, owner } of members) {
    const found = all.get(object)
    if (found && found.owner === owner) all.get(owner)?.members.push(found)
  }
  return { root, all }
}

type Told = [[number, { sourcePort: Port, sinkPort: Port }][]]
type Port = { owner: number, id: { index: number } }
/** The ways of signals that the device's blocks tell. */
export async function findWays(ask: Ask, all: ReadonlyMap<number, Found>): Promise<SignalWay[]> {
  const blocks = [...all.values()].filter(isBlock)
  const told = await Promise.all(blocks.map(b => attempt(ask(b.number, OcaBlock.methods.GetSignalPaths))))
  return (told.filter(t => t !== null) as unknown as Told[]).flatMap(([paths]) =>
    paths.map(([, { sourcePort, sinkPort }]) => ({
      source: { owner: sourcePort.owner, index: sourcePort.id.index },
      sink: { owner: sinkPort.owner, index: sinkPort.id.index },
    })))
}
