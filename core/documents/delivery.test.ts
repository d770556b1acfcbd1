import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { deliveryAfter, emptyOutbox, laneOf, pendingIn, readyToSend, type DeliveryEvent, type Outbox } from './delivery'

const edit = (device: string, path: string, value: number) => ({ document: `settings/${device}`, path, new: value })
const queue = (device: string, path: string, value: number, live = false): DeliveryEvent =>
  ({ type: 'queue', edits: [edit(device, path, value)], options: { live } })
const after = (...events: DeliveryEvent[]) => events.reduce(deliveryAfter, emptyOutbox)
const values = (outbox: Outbox) => pendingIn(outbox).flatMap(p => p.edits.map(e => e.new))

describe('edits on their way', () => {
  it('the newest of one place takes the place of the one that waits, not of the one that is sent', () => {
    const sent = [queue('a', '/gain', 1), { type: 'send', id: 1 } as const]
    const outbox = after(...sent, queue('a', '/gain', 2), queue('a', '/gain', 3))
    expect(values(outbox)).toEqual([1, 3])
    expect(outbox.deliveries.map(d => d.status)).toEqual(['sent', 'queued'])
  })
  it('wait for those before them in their lane, and for no other device', () => {
    const outbox = after(queue('a', '/gain', 1), queue('a', '/mute', 1), queue('b', '/gain', 1))
    expect(readyToSend(outbox).map(d => d.id)).toEqual([1, 3])
    const sent = deliveryAfter(outbox, { type: 'send', id: 1 })
    expect(readyToSend(sent).map(d => d.id)).toEqual([3])
    expect(readyToSend(deliveryAfter(sent, { type: 'confirmed', id: 1 })).map(d => d.id)).toEqual([2, 3])
    expect(readyToSend(deliveryAfter(sent, { type: 'refused', id: 1 })).map(d => d.id)).toEqual([2, 3])
  })
  it('what is to be live is not joined with what is a draft', () => {
    expect(values(after(queue('a', '/gain', 1), queue('a', '/gain', 2, true)))).toEqual([1, 2])
  })
  it('keep one order where they touch more than settings', () => {
    expect(laneOf([{ document: 'plan', path: '/x', new: 1 }])).toBe('plan')
    expect(laneOf([edit('b', '/x', 1), edit('a', '/x', 1)])).toBe('settings/a settings/b')
    expect(laneOf([edit('a', '/x', 1), { document: 'wiring', path: '/x', new: 1 }])).toBe('plan')
  })
  it('whatever is queued, each lane sends one at a time, in order, and the last value of every place arrives', () => {
    const queued = fc.record({ device: fc.constantFrom('a', 'b'), path: fc.constantFrom('/g', '/m'), value: fc.nat() })
    fc.assert(fc.property(fc.array(queued, { maxLength: 40 }), fc.infiniteStream(fc.nat()), (list, picks) => {
      let outbox = emptyOutbox
      const arrived = new Map<string, number>()
      const settle = () => {
        for (const d of readyToSend(outbox)) outbox = deliveryAfter(outbox, { type: 'send', id: d.id })
        const under = outbox.deliveries.filter(d => d.status === 'sent')
        expect(new Set(under.map(d => d.lane)).size).toBe(under.length)
        const one = under[picks.next().value! % Math.max(1, under.length)]
        if (!one) return
        for (const e of one.edits) arrived.set(`${e.document}${e.path}`, e.new as number)
        outbox = deliveryAfter(outbox, { type: 'confirmed', id: one.id })
      }
      for (const { device, path, value } of list) {
        outbox = deliveryAfter(outbox, queue(device, path, value))
        if (picks.next().value! % 2) settle()
      }
      while (outbox.deliveries.length) settle()
      for (const { device, path } of list) {
        const last = list.findLast(x => x.device === device && x.path === path)!
        expect(arrived.get(`settings/${device}${path}`)).toBe(last.value)
      }
    }))
  })
})
