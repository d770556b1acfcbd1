import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readAddress, writeAddress, type KnownPlates } from './address'

const plates: KnownPlates = {
  site: [],
  rig: ['device'],
  run: [],
  watch: [],
  listen: ['inputs', 'ledger'],
  shape: ['sheets', 'ledger'],
  align: ['times', 'pair'],
}
const nothing = { plate: null, item: null, cell: null, strip: null, thing: null }
const name = fc.stringMatching(/^[a-z0-9_-]{1,12}$/)

describe('the address', () => {
  it('says what is looked at, and is read again as it was written', () => {
    const looking = fc.constantFrom(...Object.keys(plates) as (keyof KnownPlates)[]).chain(area => fc.record({
      area: fc.constant(area),
      plate: fc.constantFrom(null, ...plates[area]),
      item: fc.option(name),
      cell: fc.option(fc.record({ source: name, position: name })),
      strip: fc.option(fc.record({ device: name, strip: fc.constantFrom('outputs/3', 'inputs/0', 'mains') })),
      thing: fc.option(name),
    }))
    fc.assert(fc.property(looking, (at) => {
      const { place, query } = writeAddress(at)
      const read = readAddress(place, query, plates)
      expect(read).toEqual({
        ...at,
        item: at.plate === null ? null : at.item,
        thing: at.area === 'site' ? at.thing : null,
      })
      expect(writeAddress(read)).toEqual({ place, query })
    }))
  })
  it.each<[string, string[], Record<string, string>, object]>([
    ['nothing', [], {}, { area: 'listen' }],
    ['an area that is not there', ['prove', 'inputs'], {}, { area: 'listen' }],
    ['a name that every object has', ['constructor'], {}, { area: 'listen' }],
    ['a plate that is another area’s', ['align', 'inputs'], {}, { area: 'align' }],
    ['half a cell', ['shape'], { cell: 'main-l' }, { area: 'shape' }],
    ['an empty cell', ['shape'], { cell: '/', strip: 'processor/' }, { area: 'shape' }],
  ])('of %s is that of what is known', (_, place, query, expected) => {
    expect(readAddress(place, query, plates)).toEqual({ ...nothing, ...expected })
  })
})
