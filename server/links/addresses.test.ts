import { describe, expect, it } from 'vitest'
import { notConfirmed, reachOf } from './addresses'

describe('where an address leads', () => {
  // RFC 1122, 1918, 3927, 4193, 4291, 6598
  it.each([
    ['127.0.0.1:5000', 'on this machine'],
    ['127.8.9.1:5000', 'on this machine'],
    ['[::1]:5000', 'on this machine'],
    ['[::ffff:127.0.0.1]:5000', 'on this machine'],
    ['169.254.169.254:80', 'link-local'],
    ['[fe80::1]:80', 'link-local'],
    ['10.2.3.4:5000', 'private'],
    ['172.31.0.1:5000', 'private'],
    ['192.168.0.9:5000', 'private'],
    ['[fd00::9]:5000', 'private'],
    ['[::ffff:192.168.0.9]:5000', 'private'],
    ['172.32.0.1:5000', 'public'],
    ['8.8.8.8:53', 'public'],
    ['[2a00::1]:53', 'public'],
    ['100.64.0.1:53', 'provider'],
    ['amp.lan:5000', 'a name'],
    ['2130706433:5000', 'a name'],
  ])('%s is %s', (address, words) => {
    expect(reachOf(address)).toEqual({ ok: true, where: expect.stringContaining(words) })
  })
  it.each(['0.0.0.0:1', '255.255.255.255:1', '224.0.0.1:1', '[::]:1', '[ff02::1]:1', '10.0.0.1', '10.0.0.1:0',
    '10.0.0.1:70000', 'http://10.0.0.1:80', 'a b:1', ':1', ''])('%j is no device', (address) => {
    expect(reachOf(address)).toMatchObject({ ok: false, why: expect.saying(/\w/) })
  })
  it('a simulated device needs no word, another needs one', () => {
    expect(notConfirmed('standin:processor@rack', new Set())).toBeNull()
    expect(notConfirmed('10.2.3.4:5000', new Set(['10.2.3.4:5001']))).toMatch(/Nobody at this machine/)
    expect(notConfirmed('10.2.3.4:5000', new Set(['10.2.3.4:5000']))).toBeNull()
  })
})
