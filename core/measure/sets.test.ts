import { describe, expect, it } from 'vitest'
import * as v from 'valibot'
import {
  measurementSetSchema,
  recognise,
  setFaults,
  splitTap,
  tapOf,
  tapsOf,
  twoClocks,
  type Measurement,
  type SoundDevice,
} from '.'

const device = (id: string, label: string, own: Partial<SoundDevice> = {}): SoundDevice => ({
  key: id,
  id,
  label,
  name: '',
  hidden: false,
  channels: [],
  ...own,
})

describe('sound devices are known again', () => {
  it('keeps names, labels and what is hidden of a device that comes back under the same id', () => {
    const known = [
      device('a', 'Interface', {
        name: 'Front of house',
        hidden: true,
        channels: [{ name: 'Stage left', gain: 0, calibration: 120, correction: null }],
      }),
    ]
    const [again] = recognise(known, [{ id: 'a', label: 'Interface', channels: 2 }])
    expect(again).toMatchObject({
      present: true,
      device: {
        name: 'Front of house',
        hidden: true,
        channels: [{ name: 'Stage left', calibration: 120 }, { name: '' }],
      },
    })
  })
  it('says which are not there, and forgets none of them', () => {
    expect(
      recognise([device('a', 'One'), device('b', 'Two')], [{ id: 'b', label: 'Two', channels: 1 }]).map(r => [
        r.device.key,
        r.present,
      ]),
    ).toEqual([
      ['a', false],
      ['b', true],
    ])
  })
  it('knows a device by its label when the browser gave it another id, and keeps its key', () => {
    const [only, ...none] = recognise(
      [device('old', 'Interface', { name: 'Mine' })],
      [{ id: 'new', label: 'Interface', channels: 2 }],
    )
    expect(only).toMatchObject({ present: true, device: { key: 'old', id: 'new', name: 'Mine' } })
    expect(none).toEqual([])
  })
  it('does not guess between two devices of the same label', () => {
    const both = recognise(
      [device('old', 'Microphone', { name: 'Mine' })],
      [
        { id: 'x', label: 'Microphone', channels: 1 },
        { id: 'y', label: 'Microphone', channels: 1 },
      ],
    )
    expect(both.map(r => [r.device.key, r.present])).toEqual([
      ['old', false],
      ['x', true],
      ['y', true],
    ])
  })
  it('never hands out a key twice', () => {
    const all = recognise([device('x', 'One', { id: 'z' })], [{ id: 'x', label: 'Two', channels: 1 }])
    expect(new Set(all.map(r => r.device.key)).size).toBe(2)
  })
})

describe('sets of measurements', () => {
  const row = (
    id: string,
    microphone: string,
    reference: string,
    position: string | null = null,
    state: Measurement['state'] = 'on',
  ): Measurement => ({ id, microphone, reference, position, state })
  const set = (...measurements: Measurement[]) => ({ id: 's', name: 'Mix position', measurements })
  const places = (m: Measurement) => (m.position === 'gone' ? null : (m.position ?? 'picked'))
  const faulty = (...measurements: Measurement[]) => setFaults(set(...measurements), places)

  it('lets different measurements run', () => {
    expect(faulty(row('1', 'i#0', 'i#3'), row('2', 'i#1', 'i#3', 'mid'), row('3', 'i#0', 'generator'))).toEqual({})
  })
  it('refuses the same channel on both sides, the same measurement twice, a microphone at two places, a lost '
    + 'position', () => {
    expect(faulty(row('1', 'i#0', 'i#0'))['1']).toContain('same channel')
    const twice = faulty(row('1', 'i#0', 'i#3', 'mid'), row('2', 'i#0', 'i#3', 'mid'))
    expect(Object.keys(twice)).toEqual(['2'])
    expect(twice['2']).toContain('same measurement')
    expect(faulty(row('1', 'i#0', 'i#3', 'mid'), row('2', 'i#0', 'generator', 'rear'))['2']).toContain(
      'cannot be at two',
    )
    expect(faulty(row('1', 'i#0', 'i#3', 'gone'))['1']).toContain('no longer in the plan')
    expect(faulty(row('1', 'generator', 'i#3'))['1']).toContain('no microphone')
  })
  it('does not hold a measurement against one that is off', () => {
    expect(faulty(row('1', 'i#0', 'i#3', 'mid', 'off'), row('2', 'i#0', 'i#3', 'mid'))).toEqual({})
  })
  it('lists each channel once, and tells two clocks from one', () => {
    expect(tapsOf(set(row('1', 'i#0', 'i#3'), row('2', 'u#0', 'i#3'), row('3', 'i#1', 'generator')))).toEqual([
      'i#0',
      'u#0',
      'i#1',
      'i#3',
      'generator',
    ])
    expect([row('1', 'i#0', 'i#3'), row('2', 'u#0', 'i#3'), row('3', 'i#1', 'generator')].map(twoClocks)).toEqual([
      false,
      true,
      false,
    ])
  })
  it('takes taps apart as it put them together, and refuses what is none', () => {
    expect(splitTap(tapOf('a#b c', 12))).toEqual({ key: 'a#b c', channel: 12 })
    expect(() => splitTap('nothing')).toThrow('names no input channel')
    expect(v.safeParse(measurementSetSchema, set(row('1', 'nothing', 'i#3'))).success).toBe(false)
    expect(v.safeParse(measurementSetSchema, set(row('1', 'i#0', 'generator'))).success).toBe(true)
  })
})
