import { describe, expect, it } from 'vitest'
import { addressesIn } from './searching'

describe('a range of addresses', () => {
  it.each<[string, number, string, string]>([
    ['10.0.0.7:65000', 1, '10.0.0.7:65000', '10.0.0.7:65000'],
    ['10.0.0.1-254:65000', 254, '10.0.0.1:65000', '10.0.0.254:65000'],
    ['10.0.0.250 – 10.0.1.5:4000', 12, '10.0.0.250:4000', '10.0.1.5:4000'],
    ['192.168.7.200-8.3:1', 60, '192.168.7.200:1', '192.168.8.3:1'],
    // RFC 4632: the network's own number and its broadcast are nobody's
    ['192.168.7.77/24:65000', 254, '192.168.7.1:65000', '192.168.7.254:65000'],
    ['192.168.7.8/31:65000', 2, '192.168.7.8:65000', '192.168.7.9:65000'],
  ])('%s has %d', (text, count, first, last) => {
    const found = addressesIn(text)
    expect([found.length, found[0], found.at(-1), new Set(found).size]).toEqual([count, first, last, count])
  })
  it.each([
    ['10.0.0.1-254', /port/], ['10.0.0.1:0', /port/], ['10.0.0.1:70000', /port/], ['', /port/],
    ['10.0.0.256:1', /no range/], ['10.0.0.9-3:1', /no range/], ['amp.lan:1', /no range/], ['10.0.0.1/33:1', /no range/],
    ['10.0.0.0/16:1', /at most 1024/], ['0.0.0.0-255.255.255.255:1', /at most 1024/],
  ])('%j is refused with the reason', (text, why) => {
    expect(() => addressesIn(text)).toThrow(why)
  })
})
