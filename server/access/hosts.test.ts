import { describe, expect, it } from 'vitest'
import { allowedHosts, hostOf, refusedAtDoor, type Caller } from './hosts'

const ours: Caller = {
  method: 'GET',
  path: '/api/sites',
  host: '127.0.0.1:4310',
  origin: undefined,
  site: undefined,
  mode: undefined,
  dest: undefined,
}
const at = (caller: Partial<Caller>, more = '') => refusedAtDoor({ ...ours, ...caller }, allowedHosts(more), '4310')

describe('the door', () => {
  it.each(['127.0.0.1:4310', 'localhost:4310', 'LOCALHOST', '[::1]:4310', '127.0.0.1'])('is open at %s', (host) => {
    expect(at({ host })).toBeNull()
  })
  it.each([
    undefined, '', 'evil.example', 'evil.example:4310', '127.0.0.1.evil.example', 'localhost.', '127.0.0.1:4310:1',
    '10.0.0.7:4310', '[::1', '[fe80::1]:4310', 'localhost, evil.example', '0.0.0.0:4310', 'localhost:x', ' \n',
  ])('is closed at %j', (host) => {
    expect(at({ host })).toEqual(expect.saying(/not reached by this name/))
  })
  it('opens at a name that the user added, at its port only where one was given', () => {
    expect(at({ host: 'desk.lan:4310' }, 'desk.lan')).toBeNull()
    expect(at({ host: 'desk.lan:8443' }, 'desk.lan:8443, other')).toBeNull()
    expect(at({ host: 'desk.lan:4310' }, 'desk.lan:8443')).not.toBeNull()
    expect(() => allowedHosts('desk.lan, http://x')).toThrow(/“http:\/\/x”/)
  })
  it.each([
    'null', 'https://localhost', 'http://localhost', 'https://127.0.0.1:4310', 'https://[::1]',
    'http://evil.example', 'http://localhost:3000', 'http://127.0.0.1:4311', 'https://localhost:4310.evil.example',
    'file://', 'http://localhost:4310/', 'nonsense', '', 'http://user@localhost:4310', 'ftp://localhost:4310',
  ])('is closed to pages of %j, for any method', (origin) => {
    for (const method of ['GET', 'POST', 'OPTIONS', 'DELETE']) expect(at({ method, origin })).toEqual(expect.saying(/own pages/))
  })
  it('is open to pages of its own under every name of its list', () => {
    for (const origin of ['http://127.0.0.1:4310', 'http://localhost:4310', 'http://[::1]:4310'])
      expect(at({ method: 'POST', origin })).toBeNull()
    expect(refusedAtDoor({ ...ours, origin: 'http://localhost' }, allowedHosts(''), '80')).toBeNull()
    expect(at({ origin: 'https://desk.lan:8443', host: 'desk.lan:8443' }, 'desk.lan:8443')).toBeNull()
    expect(at({ origin: 'https://desk.lan', host: 'desk.lan' }, 'desk.lan')).toBeNull()
  })
  it('tells nothing to other sites, but a link from there may open a page', () => {
    for (const site of ['cross-site', 'same-site']) {
      expect(at({ site, mode: 'no-cors', dest: 'image' })).toEqual(expect.saying(/other sites/))
      expect(at({ site, mode: 'navigate', dest: 'document' })).toEqual(expect.saying(/other sites/))
      expect(at({ site, mode: 'navigate', dest: 'document', path: '/sites/x' })).toBeNull()
      expect(at({ site, mode: 'navigate', dest: 'iframe', path: '/' })).toEqual(expect.saying(/other sites/))
      expect(at({ site, mode: 'navigate', dest: 'document', path: '/', method: 'POST' })).toEqual(expect.saying(/other sites/))
    }
    for (const site of ['same-origin', 'none', undefined]) expect(at({ site })).toBeNull()
  })
  it('reads hosts as RFC 9110 (7.2) has them', () => {
    expect(hostOf('[::1]:80')).toEqual({ name: '[::1]', port: '80' })
    expect(hostOf('[localhost]')).toBeNull()
    expect(hostOf('a:b:c')).toBeNull()
  })
})
