import { describe, expect, it } from 'vitest'
import { deviceKinds } from './catalogue'
import { channelsOf, freeNames } from './channels'

const { capability } = deviceKinds['processor-2x6']

describe('the channels of a device', () => {
  const wiring = {
    cables: { 'p:0': { device: 'console', channel: 3 }, 'amp:1': { device: 'p', channel: 2 } },
    drives: { 'left:0:low': { device: 'amp', channel: 1 }, 'fill:0:full': { device: 'p', channel: 5 } },
  }
  it('say what comes in by them, and where they lead', () => {
    const { inputs, outputs } = channelsOf(capability, 'p', wiring)
    expect(inputs.map(c => [c.strip.id, c.input, c.fed])).toEqual([
      ['inputs/0', 0, { device: 'console', channel: 3 }], ['inputs/1', 1, null],
    ])
    expect(outputs.map(c => c.strip.id)).toEqual(capability.outputs.map(o => o.strip))
    expect(outputs.map(c => c.cables)).toEqual([[], [], ['amp:1'], [], [], []])
    expect(outputs.map(c => c.drives)).toEqual([[], [], [], [], [], ['fill:0:full']])
  })
  it('of another device of the same kind are its own', () => {
    const { inputs, outputs } = channelsOf(capability, 'q', wiring)
    expect([...inputs, ...outputs].every(c => !c.fed && !c.cables.length && !c.drives.length)).toBe(true)
  })
})

describe('names of new devices', () => {
  it('are those that none has yet', () => {
    expect(freeNames('Amp', 1, [])).toEqual(['Amp'])
    expect(freeNames('Amp', 1, ['Amp', 'Amp 1'])).toEqual(['Amp 2'])
    expect(freeNames('Amp', 3, ['Amp 2'])).toEqual(['Amp 1', 'Amp 3', 'Amp 4'])
  })
})
