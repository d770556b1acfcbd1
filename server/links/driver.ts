import type { Capability, DeviceAct, Housekeeping, ParameterPath, Settings } from '../../core/rig'

/** What became of one written value: what the device holds now, or its own reason why not. */
export type Written = { path: ParameterPath, value: unknown } | { path: ParameterPath, refused: string }

/** All that a device tells when it is read. */
export interface DeviceReading {
  capability: Capability
  settings: Settings
  serial: string | null
  housekeeping: Housekeeping
}

/**
 * One open connection to one device, whatever protocol it speaks. Every promise rejects when the connection is
 * lost.
 */
export interface DeviceConnection {
  /**
   * The whole of it, with the number by which the device knows itself, if it tells one (the same by whatever way it is
   * reached); nothing that the device told afterwards is told before whoever asked has had this.
   */
  read(): Promise<DeviceReading>
  /**
   * Writes values in order. What the device made of them is also told by `events.held`, in its place among all
   * it tells.
   */
  write(values: readonly (readonly [ParameterPath, unknown])[]): Promise<Written[]>
  /** Has it do something; resolves with its reason why it does not, or null. What it told of it is told by then. */
  act(act: DeviceAct): Promise<string | null>
  /** The settings that a preset would make; null where the device does not tell them. */
  presetAt(slot: number): Promise<Settings | null>
  ping(): Promise<void>
  close(): void
}

/** A value as a device told it: because it was written from here, or because somebody changed it there. */
export interface Told {
  path: ParameterPath
  value: unknown
  by: 'sent' | 'device'
}

export interface DeviceEvents {
  /** What the device holds, in the order in which it told it. */
  held(told: readonly Told[]): void
  /** What it tells of itself besides settings. */
  housekeeping(state: Housekeeping): void
  /** The connection is gone; called once. */
  lost(why: string): void
}

/** Opens a connection to an address of the driver's kind. */
export type DeviceDriver = (address: string, events: DeviceEvents) => Promise<DeviceConnection>
