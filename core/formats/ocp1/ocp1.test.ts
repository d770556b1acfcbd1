import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  bits, bool, decode, encode, f32, knownClassOf, list, MessageStream, mostBytes, ocaClasses, pairs, readMessage,
  readParameters, table, text, u16, u32, u8, writeMessage, writeParameters, type OcpMessage,
} from './index'
import { Refusal } from '../../words'
import { OcaBlock } from './classes/blocks'
import { OcaGain } from './classes/actuators'
import { OcaSubscriptionManager } from './classes/managers'
import { OcaRoot, OcaWorker } from './classes/root'

const bytesOf = (hex: string) => Uint8Array.from(hex.replace(/[^0-9a-f]/gi, '').match(/../g)!, b => parseInt(b, 16))
const hexOf = (bytes: Uint8Array) => Buffer.from(bytes).toString('hex')
const of = ({ level, index }: { level: number, index: number }) => ({ level, index })
const none = new Uint8Array(0)
const command = (handle: number, object: number, method: { level: number, index: number }, parameters = {}) =>
  ({ handle, object, method: of(method), count: 0, parameters: none, ...parameters })
const { GetGain, SetGain, SetLabel } = { ...OcaGain.methods, ...OcaWorker.methods }

/** Messages as they stood on the wire between a controller and a device written by others (AES70-2018, OCP.1). */
const captured: [what: string, hex: string, message: OcpMessage][] = [
  ['GetGain of object 5001', '3b 0001 0000001a 01 0001 00000011 00000000 00001389 0004 0001 00', {
    type: 'commands', answered: true, commands: [command(0, 5001, GetGain)],
  }],
  ['its answer: 0, −80 to 12 dB', '3b 0001 0000001f 03 0001 00000016 00000000 00 03 00000000 c2a00000 41400000', {
    type: 'answers',
    answers: [{ handle: 0, status: 0, ...writeParameters(OcaGain.methods.GetGain.gives, [0, -80, 12]) }],
  }],
  ['SetGain −6.5', '3b 0001 0000001e 01 0001 00000015 00000001 00001389 0004 0002 01 c0d00000', {
    type: 'commands',
    answered: true,
    commands: [command(1, 5001, SetGain, writeParameters(OcaGain.methods.SetGain.takes, [-6.5]))],
  }],
  ['the notification of it',
    '3b 0001 00000029 02 0001 00000020 0000c408 0001 0001 02 0000 00001389 0001 0001 0004 0001 c0d00000 01', {
      type: 'notifications',
      notifications: [{
        subscriber: 0xC408,
        method: { level: 1, index: 1 },
        context: none,
        emitter: 5001,
        event: { level: 1, index: 1 },
        data: encode([u16, u16, f32, u8], [4, 1, -6.5, 1]),
      }],
    }],
  ['its answer', '3b 0001 00000013 03 0001 0000000a 00000001 00 00', {
    type: 'answers', answers: [{ handle: 1, status: 0, count: 0, parameters: none }],
  }],
  ['AddSubscription', '3b 0001 0000002f 01 0001 00000026 00000000 00000004 0003 0001 05 00001389 0001 0001 0000c408 '
  + '0001 0001 0000 01 0000', {
    type: 'commands',
    answered: true,
    commands: [command(0, 4, OcaSubscriptionManager.methods.AddSubscription,
      writeParameters(OcaSubscriptionManager.methods.AddSubscription.takes, [
        { emitter: 5001, eventId: { level: 1, index: 1 } },
        { object: 0xC408, methodId: { level: 1, index: 1 } },
        none, 1, none,
      ]))],
  }],
  ['SetLabel “É1”: two code points in three bytes',
    '3b 0001 0000001f 01 0001 00000016 00000001 00001389 0002 0009 01 0002 c38931', {
      type: 'commands',
      answered: true,
      commands: [command(1, 5001, SetLabel, writeParameters(OcaWorker.methods.SetLabel.takes, ['É1']))],
    }],
  ['keep-alive of 1 s', '3b 0001 0000000b 04 0001 0001', { type: 'alive', interval: 1000 }],
  ['keep-alive of 0.5 s', '3b 0001 0000000d 04 0001 000001f4', { type: 'alive', interval: 500 }],
]

describe('messages of OCP.1', () => {
  it.each(captured)('%s, both directions', (_, hex, message) => {
    expect(hexOf(writeMessage(message))).toBe(hexOf(bytesOf(hex)))
    expect(readMessage(bytesOf(hex))).toEqual(message)
  })
  it('the members of a block, as captured', () => {
    const hex = '0002 00001389 0004 0001 0001 0001 0005 0002 0000138a 0004 0001 0001 0001 0002 0002'
    const [members] = decode(OcaBlock.methods.GetMembers.gives, bytesOf(hex))
    expect(members.map(x => [x.object, knownClassOf(x.classIdentification.classId)?.name]))
      .toEqual([[5001, 'OcaGain'], [5002, 'OcaMute']])
    expect(hexOf(encode(OcaBlock.methods.GetMembers.gives, [members]))).toBe(hexOf(bytesOf(hex)))
  })
  it('any messages come out of a stream as they went in, in whatever pieces it comes', () => {
    const part = fc.record({ handle: fc.nat(), object: fc.nat(), bytes: fc.uint8Array({ maxLength: 40 }) })
    const some = fc.array(fc.oneof(
      fc.array(part, { minLength: 1, maxLength: 4 }).map((list): OcpMessage => ({
        type: 'commands',
        answered: list.length % 2 === 0,
        commands: list.map(c => command(c.handle, c.object, GetGain, { parameters: c.bytes, count: 3 })),
      })),
      fc.array(part, { maxLength: 4 }).map((list): OcpMessage => ({
        type: 'answers',
        answers: list.map(c => ({ handle: c.handle, status: 7, count: 1, parameters: c.bytes })),
      })),
      fc.array(part, { minLength: 1, maxLength: 3 }).map((list): OcpMessage => ({
        type: 'notifications',
        notifications: list.map(c => ({
          subscriber: c.handle, method: of(GetGain), context: c.bytes, emitter: c.object, event: of(SetGain),
          data: c.bytes,
        })),
      })),
      fc.integer({ min: 1, max: 2 ** 31 }).map((interval): OcpMessage => ({ type: 'alive', interval })),
    ), { maxLength: 5 })
    fc.assert(fc.property(some, fc.array(fc.integer({ min: 1, max: 30 }), { minLength: 1 }), (messages, cuts) => {
      const all = Buffer.concat(messages.map(writeMessage))
      const stream = new MessageStream()
      const found: OcpMessage[] = []
      for (let at = 0, n = 0; at < all.length; n++) {
        const end = at + cuts[n % cuts.length]!
        found.push(...stream.push(all.subarray(at, end)))
        at = end
      }
      expect(found).toEqual(messages)
    }))
  })
})

describe('what is no OCP.1', () => {
  const alive = '3b 0001 0000000b 04 0001'
  it.each([
    ['another first byte', '3c 0001 0000000b 04 0001 0001', /begins with 3B/],
    ['another version', '3b 0002 0000000b 04 0001 0001', /version 2/],
    ['a size below its header', '3b 0001 00000003 04 0001 0001', /3 bytes is not possible/],
    ['a size beyond all measure', '3b 0001 ffffffff 01 0001 0001', /4294967296 bytes is too long/],
    ['an unknown type', '3b 0001 0000000b 05 0001 0001', /kind of message 5/],
    ['a keep-alive of never', `${alive} 0000`, /keep-alive/],
    ['two keep-alives', '3b 0001 0000000d 04 0002 0001 0001', /keep-alive/],
    ['a part that is smaller than its own head', '3b 0001 0000001a 01 0001 00000010 00000000 00001389 0004 0001 00',
      /16 bytes is not possible/],
    ['a part beyond the end', '3b 0001 0000001a 01 0001 000000ff 00000000 00001389 0004 0001 00', /cut short/],
    ['fewer parts than bytes', '3b 0001 00000013 03 0000 0000000a 00000001 00 00', /left over/],
    ['more parts than bytes', '3b 0001 00000013 03 0002 0000000a 00000001 00 00', /cut short/],
  ])('%s is refused with the reason, and nothing is read after it', (_, hex, words) => {
    const stream = new MessageStream()
    expect(() => stream.push(bytesOf(hex))).toThrow(words)
    expect(() => stream.push(bytesOf(`${alive} 0001`))).toThrow(words)
  })
  it('random bytes, whole or behind an honest header, are refused or wait for more: never anything else', () => {
    const noise = fc.uint8Array({ maxLength: 400 })
    const behind = fc.tuple(fc.integer({ min: 0, max: 5 }), fc.nat(6), fc.uint8Array({ maxLength: 200 }))
      .map(([type, parts, body]) => {
        const head = [0x3B, 0, 1, ...encode([u32], [9 + body.length]), type, ...encode([u16], [parts])]
        return Uint8Array.from([...head, ...body])
      })
    fc.assert(fc.property(fc.oneof(noise, behind), (bytes) => {
      const stream = new MessageStream()
      try {
        for (const { type } of stream.push(bytes)) expect(type).toMatch(/^(commands|answers|notifications|alive)$/)
      }
      catch (error) { expect(error).toBeInstanceOf(Refusal) }
    }), { numRuns: 2000 })
  })
  it('no values come out of bytes that are none of their types', () => {
    const types = [...ocaClasses.values()].flatMap(c => Object.values(c.methods).flatMap(m => [m.takes, m.gives]))
    fc.assert(fc.property(fc.nat(types.length - 1), fc.uint8Array({ maxLength: 300 }), (n, bytes) => {
      try {
        expect(decode(types[n]!, bytes)).toHaveLength(types[n]!.length)
      }
      catch (error) { expect(error).toBeInstanceOf(Refusal) }
    }), { numRuns: 2000 })
  })
  it('a message that never ends is kept once, and only as long as is allowed', () => {
    const stream = new MessageStream(1000)
    const head = Uint8Array.from([0x3B, 0, 1, ...encode([u32], [998]), 1, 0, 1])
    expect(stream.push(head)).toEqual([])
    for (let n = 0; n < 900; n++) expect(stream.push(Uint8Array.of(0))).toEqual([])
    expect(() => new MessageStream(1000).push(Uint8Array.from([0x3B, 0, 1, ...encode([u32], [1000]), 1, 0, 1])))
      .toThrow(/at most 1000/)
    expect(mostBytes).toBeGreaterThan(4 * 65_535 + 100) // a FIR filter of as many coefficients as its count can say
  })
})

describe('values of OCP.1', () => {
  it('come back as they went, whatever they are', () => {
    const types = [u8, text, list(text), bits, bool, pairs(u16, text), table(u32)] as const
    const word = fc.string({ unit: 'grapheme', maxLength: 20 })
    const values = fc.tuple(
      fc.nat(255), word, fc.array(word), fc.array(fc.boolean()), fc.boolean(),
      fc.array(fc.tuple(fc.nat(65_535), word), { maxLength: 5 }),
      fc.nat(4).chain(columns => fc.array(fc.array(fc.nat(), { minLength: columns + 1, maxLength: columns + 1 }))),
    )
    fc.assert(fc.property(values, (given) => {
      const [a, b, c, d, e, f, g] = given
      expect(decode(types, encode(types, [a, b, c, d, e, f, g]))).toEqual(given)
    }))
  })
  it('a text counts code points, not bytes or halves of pairs, and a broken half is marked', () => {
    expect(hexOf(encode([text], ['𝄞é']))).toBe('0002f09d849ec3a9')
    expect(decode([text], encode([text], ['a\uD834']))).toEqual(['a\uFFFD'])
    expect(() => decode([text], bytesOf('0001 ff'))).toThrow(/UTF-8/)
  })
  it('bits stand with the most significant first', () => {
    expect(hexOf(encode([bits], [[true, false, true, false, false, false, false, false, true]]))).toBe('0009a080')
  })
  it('a number of parameters that is another is refused', () => {
    expect(() => readParameters(OcaGain.methods.GetGain.gives, { count: 1, parameters: encode([f32], [0]) }))
      .toThrow(/3 parameters are needed here, not 1/)
  })
})

describe('the classes of AES70', () => {
  it('each stands below one that is there, has what that has, and no number twice', () => {
    for (const { id, methods, properties } of ocaClasses.values()) {
      // one of our own stands below the standard one before 0xFFFF
      const parent = id.replace(/(\.65535.*|(^|\.)\d+)$/, '')
      if (parent) expect(Object.keys(methods), id).toEqual(expect.arrayContaining(
        Object.keys(ocaClasses.get(parent)!.methods)))
      for (const members of [methods, properties]) {
        const numbers = Object.values<{ level: number, index: number }>(members).map(x => `${x.level}.${x.index}`)
        expect(new Set(numbers).size, id).toBe(numbers.length)
      }
    }
    expect(ocaClasses.size).toBeGreaterThan(90)
  })
  it('a class of a maker’s own is driven as the nearest known one that it stands below', () => {
    expect(knownClassOf([1, 1, 1, 5])?.name).toBe('OcaGain')
    expect(knownClassOf([1, 1, 1, 5, 0xFFFF, 7, 1])?.name).toBe('OcaGain')
    expect(knownClassOf([1, 1, 1, 999])?.name).toBe('OcaActuator')
    expect(knownClassOf([2, 1])).toBeNull()
    expect(OcaRoot.id).toBe('1')
  })
})
