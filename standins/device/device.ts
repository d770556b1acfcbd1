import { createServer, type Server } from 'node:net'
import { ocaStatus, type Identity } from '../../core/formats/oca'
import type { OcaClass } from '../../core/formats/ocp1'
import type { Settings } from '../../core/rig'
import type { StandinDevice } from '../ropewalk/devices'
import { answerOf, no, ok, type Result } from './calls'
import { managerAnswer, managerNumbers, managers, type Names } from './managers'
import { StandinHousekeeping } from './housekeeping'
import { Memory, serialIn } from './memory'
import { DeviceModel } from './model'
import { Session } from './session'

const maker = 'Ropewalk'
/** What reads, or says who it is, may pass a lock that keeps others from writing. */
const isReading = (name: string) => name.startsWith('Get')
const alwaysOpen = ['GetClassIdentification', 'GetLockable', 'GetRole', 'GetOwner', 'GetPath', 'GetMembers',
  'GetMembersRecursive']

/** A device that is switched on: who is connected to it, and who has locked what. */
export class Device {
  readonly sessions = new Set<Session>()
  private readonly locks = new Map<number, { by: Session, isTotal: boolean }>()
  private readonly given: Record<string, string>
  readonly housekeeping: StandinHousekeeping

  constructor(readonly model: DeviceModel, private readonly who: Identity, private readonly memory: Memory) {
    this.given = memory.loadNames()
    this.housekeeping = new StandinHousekeeping(
      model, memory.loadKept(), memory.saveKept, memory.delivered, (...news) => this.tell(...news))
    for (const [number, label] of Object.entries(this.given)) {
      const object = model.tree.objects.get(Number(number))
      if (object) object.label = label
    }
    model.listen((object, name, value) => this.tell(object, name, value))
  }

  private tell(object: number, name: string, value: unknown) {
    for (const session of this.sessions) session.changed(object, name, value)
    // who changed it gets its answer with it; the others hear of it at once
    queueMicrotask(() => this.flush())
  }

  private flush() {
    for (const session of this.sessions) session.flush()
  }

  private readonly names: Names = {
    get: key => this.given[key],
    set: (key, name) => {
      this.memory.saveNames({ ...this.given, [key]: name })
      this.given[key] = name
      if (key === 'device') this.tell(managerNumbers.device, 'DeviceName', name)
    },
  }

  classOf = (object: number): OcaClass | undefined => this.model.tree.objects.get(object)?.oca ?? managers[object]

  unlockAll(session: Session) {
    for (const [object, { by }] of this.locks) if (by === session) this.locks.delete(object)
  }

  private lock(session: Session, object: number, isTotal: boolean): Result {
    const lock = this.locks.get(object)
    if (lock && lock.by !== session) return no(ocaStatus.locked)
    this.locks.set(object, { by: session, isTotal })
    return ok()
  }

  private isLocked(session: Session, object: number, name: string): boolean {
    const lock = this.locks.get(object)
    if (!lock || lock.by === session || alwaysOpen.includes(name)) return false
    return lock.isTotal || !isReading(name)
  }

  /** What an object answers to a controller. */
  call(session: Session, number: number, name: string, values: readonly unknown[]): Result {
    const object = this.model.tree.objects.get(number)
    if (!object) return managerAnswer(this.model, this.who, this.names, number, name, values) ?? no(ocaStatus.badMethod)
    if (this.isLocked(session, number, name)) return no(ocaStatus.locked)
    switch (name) {
      case 'LockTotal': return this.lock(session, number, true)
      case 'LockReadonly': return this.lock(session, number, false)
      case 'Unlock':
        if (this.locks.get(number)?.by === session) this.locks.delete(number)
        return ok()
      case 'SetLabel': {
        const label = String(values[0])
        try {
          this.names.set(String(number), label)
        }
        catch { return no(ocaStatus.deviceError) }
        object.label = label
        this.tell(number, 'Label', label)
        return ok()
      }
      default: return this.housekeeping.answer(object, name, values) ?? answerOf(this.model, object, name, values)
    }
  }
}

/** One device at a port of its own. */
interface Running { device: Device, server: Server, port: number }
export interface RunningDevice {
  /** Where the device itself listens; each rack has a copy at a port of its own. */
  port: number
  rack: (name: string) => Promise<number>
  /** Turns something at the front of a rack’s copy; gives what it holds then. */
  turn: (rack: string, path: string, wish: unknown) => Promise<unknown>
  /** Whether a rack’s copy shows itself. */
  identifying: (rack: string) => Promise<boolean>
  settings: (rack: string) => Promise<Settings>
  close: () => void
}

/**
 * A device of the simulated rig: keeps its settings in `folder` as a real one keeps them in its flash, and speaks
 * OCP.1 over TCP on loopback. Each rack has a copy of its own. Resolves with the port it listens on.
 */
export async function runDevice(made: StandinDevice, folder: string, port = 0): Promise<RunningDevice> {
  const copies = new Map<string, Promise<Running>>()
  const serial = serialIn(folder, made.id)
  const begin = (rack: string, at: number) => new Promise<Running>((resolve, reject) => {
    const memory = new Memory(made, folder, rack)
    const { capability, name } = made
    const who = {
      serial: `${serial} ${rack}`, name, maker, model: capability.model, firmware: capability.firmware ?? null,
    }
    const device = new Device(new DeviceModel(capability, memory.load(), memory.save), who, memory)
    const server = createServer(socket => device.sessions.add(new Session(socket, device)))
    server.once('error', reject)
    server.listen(at, '127.0.0.1', () =>
      resolve({ device, server, port: (server.address() as { port: number }).port }))
  })
  const copyOf = (rack: string, at = 0) => {
    const known = copies.get(rack) ?? begin(rack, at)
    copies.set(rack, known)
    return known
  }
  const { port: own } = await copyOf('default', port)
  return {
    port: own,
    rack: async name => (await copyOf(name)).port,
    turn: async (rack, path, wish) => {
      const { model, housekeeping } = (await copyOf(rack)).device
      if (!housekeeping.mayTurn(path)) throw new RangeError('Its front is locked.')
      return model.turn(path, wish)
    },
    identifying: async rack => (await copyOf(rack)).device.housekeeping.identifying,
    settings: async rack => (await copyOf(rack)).device.model.settings,
    close: () => {
      for (const copy of copies.values()) {
        void copy.then(({ device, server }) => {
          for (const session of device.sessions) session.close()
          server.close()
        })
      }
    },
  }
}
