import { describe, expect, it } from 'vitest'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { deviceKinds } from './catalogue'
import { readKindFile, writeKindFile } from './kindFile'

const all = [...ropewalkDevices, ...Object.values(deviceKinds)].map(d => d.capability)
describe('a kind of device as a file', () => {
  it.each(all.map(c => [c.model, c] as const))('%s comes back as it was', (_, capability) => {
    expect(readKindFile(writeKindFile(capability))).toEqual(capability)
  })
  const amplifier = JSON.parse(writeKindFile(ropewalkDevices[1]!.capability)) as { capability: object }
  it.each([
    ['no JSON', '{', /not JSON/],
    ['another file', '{"format":"something"}', /format/],
    ['a newer version', JSON.stringify({ ...amplifier, version: 2 }), /version/],
    ['an impossible rate', JSON.stringify({ ...amplifier, capability: { ...amplifier.capability, sampleRate: 1 } }),
      /sampleRate/],
    ['an output of a channel that is not there', JSON.stringify({
      ...amplifier, capability: { ...amplifier.capability, strips: [] },
    }), /outputs\/0/],
  ])('%s is refused with the place', (_, text, words) => {
    expect(() => readKindFile(text)).toThrow(expect.saying(words) as Error)
  })
})
