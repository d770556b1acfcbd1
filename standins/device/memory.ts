import { randomUUID } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { currentVersion, upgradeMemory } from '../../core/documents'
import { frontLevels, holdAll, type Settings } from '../../core/rig'
import { firstDelivered, tunedSettings, type StandinDevice } from '../ropewalk/devices'
import { ropewalk, ropewalkTuned } from '../ropewalk/site'
import { keptAtFirst, type Kept } from './housekeeping'

/** Where the devices of sites that came from the first version stand. */
const firstRack = 'first'

/** Written beside and renamed, so that a power cut leaves the old or the new text, never half of it. */
function put(file: string, text: string) {
  mkdirSync(join(file, '..'), { recursive: true })
  writeFileSync(`${file}.new`, text)
  renameSync(`${file}.new`, file)
}

/** The number that it was made with: drawn at its first start, and kept. */
export function serialIn(folder: string, id: string): string {
  const file = join(folder, `${id}.serial`)
  if (!existsSync(file)) put(file, randomUUID())
  return readFileSync(file, 'utf8')
}

/** The demo's racks come as their crews left them, any other as from the factory: neutral, nothing connected. */
function deliveredTo(device: StandinDevice, rack: string): Settings {
  if (rack === ropewalkTuned.id) return tunedSettings[device.id] ?? {}
  if (rack === firstRack) return firstDelivered[device.id] ?? {}
  return rack === 'default' || rack === ropewalk.id ? device.delivered : {}
}

/** What a device keeps through a power cut: its settings, and the names that its users gave it. */
export class Memory {
  private readonly file: string
  constructor(private readonly device: StandinDevice, folder: string, private readonly rack: string) {
    this.file = join(folder, rack === 'default' ? `${device.id}.json` : `${device.id}@${rack}.json`)
  }

  /** Where the memory of the first rack is: under its own name, else where the first version kept it. */
  private get source(): string {
    const isOwn = this.rack !== firstRack || existsSync(this.file)
    return isOwn ? this.file : this.file.replace(`@${firstRack}.json`, '.json')
  }

  /** What it kept. Damaged or newer memory is put aside, and it starts as delivered. */
  load(): Settings {
    const file = this.source
    let text: string
    try {
      text = readFileSync(file, 'utf8')
    }
    catch (error) {
      if ((error as NodeJS.ErrnoException).code === 'ENOENT') return deliveredTo(this.device, this.rack)
      throw error
    }
    try {
      return upgradeMemory(this.device.capability, JSON.parse(text))
    }
    catch (error) {
      console.error(
        `${this.device.name}: its memory cannot be used (${(error as Error).message}). It started as delivered; `
        + `the memory is kept as ${file}.damaged`,
      )
      renameSync(file, `${file}.damaged`)
      return deliveredTo(this.device, this.rack)
    }
  }

  save = (settings: Settings) => put(this.file, JSON.stringify({ version: currentVersion, settings }))

  private get keptFile(): string { return this.file.replace(/\.json$/, '.kept') }
  /** What it was delivered with. */
  get delivered(): Settings { return deliveredTo(this.device, this.rack) }
  /** Its presets, and how far its front is locked. Damaged memory is put aside. */
  loadKept(): Kept {
    let text: string
    try {
      text = readFileSync(this.keptFile, 'utf8')
    }
    catch { return keptAtFirst }
    try {
      const { front, recalled, presets } = JSON.parse(text) as Kept
      const { capability } = this.device
      return {
        front: frontLevels.includes(front) ? front : 'open',
        recalled,
        presets: presets.map(p => ({ ...p, settings: holdAll(capability, p.settings) })),
      }
    }
    catch {
      renameSync(this.keptFile, `${this.keptFile}.damaged`)
      return keptAtFirst
    }
  }

  saveKept = (kept: Kept) => put(this.keptFile, JSON.stringify(kept))

  private get names(): string { return this.file.replace(/\.json$/, '.names') }
  /** Labels by object number; the device's own name under 'device'. */
  loadNames(): Record<string, string> {
    try {
      return JSON.parse(readFileSync(this.names, 'utf8')) as Record<string, string>
    }
    catch { return {} }
  }

  saveNames = (names: Readonly<Record<string, string>>) => put(this.names, JSON.stringify(names))
}
