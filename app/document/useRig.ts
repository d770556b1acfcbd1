import { nextOrder, type DesiredEdit, type Device } from '~~/core/documents'
import { endpointKey, type Capability, type Endpoint } from '~~/core/rig'
import { useSite } from './site'

/** What is asked for when devices are added: so many of a kind, each by its name. */
export interface NewDevices {
  capability: Capability
  names: readonly string[]
  /** Where the first one answers; empty where nothing is connected yet. */
  address: string
}

/** Changes of what is in the rack and what is joined to what. All resolve with false when they were refused. */
export function useRig() {
  const site = useSite()
  const make = (...wishes: DesiredEdit[]) => site.change(wishes, { live: false, gesture: crypto.randomUUID() })
  const cable = (input: string, output: Endpoint | undefined): DesiredEdit =>
    ({ document: 'wiring', path: `/cables/${input}`, new: output })
  const isOf = (device: string) => (key: string) => key.startsWith(`${device}:`)

  function add({ capability, names, address }: NewDevices) {
    const order = nextOrder(site.devices)
    return make(...names.flatMap((name, n): DesiredEdit[] => {
      const id = `device-${crypto.randomUUID().slice(0, 8)}`
      const made: Device = { id, name, order: order + n, address: n === 0 ? address : '', capability }
      return [
        { document: `device/${id}`, path: '', new: made },
        { document: `settings/${id}`, path: '', new: {} },
      ]
    }))
  }

  /** Takes a device away, with its cables, its feeds, and what it drives. */
  function remove({ id }: Device) {
    const { cables, drives, feeds, follows = {} } = site.wiring
    const gone = (list: Readonly<Record<string, Endpoint>>) =>
      Object.keys(list).filter(key => list[key]!.device === id)
    const paths = [
      ...new Set([...gone(cables), ...Object.keys(cables).filter(isOf(id))]).values().map(k => `/cables/${k}`),
      ...gone(drives).map(k => `/drives/${k}`),
      ...Object.keys(feeds).filter(k => feeds[k]!.from.device === id).map(k => `/feeds/${k}`),
      ...Object.keys(follows).filter(isOf(id)).map(k => `/follows/${k}`),
    ]
    return make(
      ...paths.map((path): DesiredEdit => ({ document: 'wiring', path, new: undefined })),
      { document: `settings/${id}`, path: '', new: undefined },
      { document: `device/${id}`, path: '', new: undefined },
    )
  }

  /** One more of a kind with the same settings, connected to nothing. */
  function duplicate({ id: from, capability }: Device, name: string) {
    const id = `device-${crypto.randomUUID().slice(0, 8)}`
    const made: Device = { id, name, order: nextOrder(site.devices), address: '', capability }
    return make(
      { document: `device/${id}`, path: '', new: made },
      { document: `settings/${id}`, path: '', new: { ...site.draft(from) } },
    )
  }

  return {
    add,
    remove,
    duplicate,
    rename: (device: string, name: string) => make({ document: `device/${device}`, path: '/name', new: name }),
    setAddress: (device: string, address: string) =>
      make({ document: `device/${device}`, path: '/address', new: address }),
    /** Cables by their inputs; one that was there is taken out. */
    connect: (cables: Readonly<Record<string, Endpoint>>) =>
      make(...Object.entries(cables).map(([input, output]) => cable(input, output))),
    disconnect: (input: Endpoint) => make(cable(endpointKey(input), undefined)),
  }
}
