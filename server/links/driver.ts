import type { Capability, ParameterPath, ParameterValue, Settings } from '../../core/rig'

/**
 * One open connection to one device, whatever protocol it speaks. Every promise rejects when the connection is
 * lost.
 */
export interface DeviceConnection {
  read(): Promise<{ capability: Capability, settings: Settings }>
  /** Writes one parameter and gives back what the device says it holds now. Rejects with the device's own reason. */
  write(path: ParameterPath, value: ParameterValue): Promise<ParameterValue>
  ping(): Promise<void>
  close(): void
}

export interface DeviceEvents {
  /** The device was changed by somebody else. */
  changed(path: ParameterPath, value: ParameterValue): void
  /** The connection is gone; called once. */
  lost(why: string): void
}

/** Opens a connection to an address of the driver's kind. */
export type DeviceDriver = (address: string, events: DeviceEvents) => Promise<DeviceConnection>

/** A refusal by the device itself, as opposed to a lost connection. */
export class DeviceRefusal extends Error {}
