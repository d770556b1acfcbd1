import { ByteReader, ByteWriter } from './bytes'
import { refusal } from '../../words'

/** How a type of OCP.1 stands in bytes, both directions. `read` throws a refusal for bytes that are none of it. */
export interface Codec<T> {
  read(from: ByteReader): T
  write(to: ByteWriter, value: T): void
}
export type ValueOf<C> = C extends Codec<infer T> ? T : never
/** Values of a row of types. */
export type ValuesOf<C extends readonly unknown[]> = { -readonly [K in keyof C]: ValueOf<C[K]> }

type Number64 = 'u64' | 'i64'
type Number32 = 'u8' | 'u16' | 'u32' | 'i8' | 'i16' | 'i32' | 'f32' | 'f64'
const number = (kind: Number32): Codec<number> =>
  ({ read: from => from[kind](), write: (to, value) => to[kind](value) })
const large = (kind: Number64): Codec<bigint> =>
  ({ read: from => from[kind](), write: (to, value) => to[kind](value) })

export const u8 = number('u8')
export const u16 = number('u16')
export const u32 = number('u32')
export const u64 = large('u64')
export const i8 = number('i8')
export const i16 = number('i16')
export const i32 = number('i32')
export const i64 = large('i64')
export const f32 = number('f32')
export const f64 = number('f64')
export const bool: Codec<boolean> = { read: from => from.u8() !== 0, write: (to, value) => to.u8(value ? 1 : 0) }
export const text: Codec<string> = { read: from => from.text(), write: (to, value) => to.text(value) }
/** Bytes with their number before them. */
export const blob: Codec<Uint8Array> = {
  read: from => from.take(from.u16()),
  write: (to, value) => {
    to.count(value.length)
    to.put(value)
  },
}
/** So many bytes, without a number before them. */
export const fixedBlob = (length: number): Codec<Uint8Array> => ({
  read: from => from.take(length),
  write: (to, value) => {
    if (value.length !== length) throw refusal('ocp1.fixed', { length, given: value.length })
    to.put(value)
  },
})
/** Bits, the first the most significant of the first byte. */
export const bits: Codec<boolean[]> = {
  read: (from) => {
    const count = from.u16()
    const bytes = from.take(Math.ceil(count / 8))
    return Array.from({ length: count }, (_, n) => (bytes[n >> 3]! & (0x80 >> (n & 7))) !== 0)
  },
  write: (to, value) => {
    to.count(value.length)
    const bytes = new Uint8Array(Math.ceil(value.length / 8))
    value.forEach((on, n) => {
      if (on) bytes[n >> 3]! |= 0x80 >> (n & 7)
    })
    to.put(bytes)
  },
}
/** Several of a type, with their number before them. Each takes a byte at least: a number beyond them is refused. */
export const list = <T>(item: Codec<T>): Codec<T[]> => ({
  read: (from) => {
    const count = from.u16()
    if (count > from.left) throw refusal('ocp1.short', { wanted: count, left: from.left })
    return Array.from({ length: count }, () => item.read(from))
  },
  write: (to, value) => {
    to.count(value.length)
    for (const x of value) item.write(to, x)
  },
})
/** Rows of equal length: the number of columns, that of rows, then row by row. */
export const table = <T>(item: Codec<T>): Codec<T[][]> => ({
  read: (from) => {
    const [columns, rows] = [from.u16(), from.u16()]
    if (columns * rows > from.left) throw refusal('ocp1.short', { wanted: columns * rows, left: from.left })
    return Array.from({ length: columns ? rows : 0 }, () => Array.from({ length: columns }, () => item.read(from)))
  },
  write: (to, value) => {
    const columns = value[0]?.length ?? 0
    if (value.some(row => row.length !== columns)) throw refusal('ocp1.ragged')
    to.count(columns)
    to.count(value.length)
    for (const row of value) for (const x of row) item.write(to, x)
  },
})
/** Pairs of key and value in their order; a key may come again where a type allows it (multimap). */
export const pairs = <K, V>(key: Codec<K>, value: Codec<V>): Codec<[K, V][]> => list({
  read: from => [key.read(from), value.read(from)],
  write: (to, [k, v]) => {
    key.write(to, k)
    value.write(to, v)
  },
})
/** Fields one after the other, without padding. */
export const struct = <F extends Readonly<Record<string, Codec<unknown>>>>(
  fields: F,
): Codec<{ -readonly [K in keyof F]: ValueOf<F[K]> }> => ({
  read: from => Object.fromEntries(Object.entries(fields).map(([name, codec]) =>
    [name, codec.read(from)])) as { -readonly [K in keyof F]: ValueOf<F[K]> },
  write: (to, value) => {
    for (const [name, codec] of Object.entries(fields)) codec.write(to, value[name])
  },
})

/** The bytes of a row of values by their types. */
export function encode<C extends readonly unknown[]>(types: C, values: ValuesOf<C>): Uint8Array {
  const to = new ByteWriter()
  types.forEach((codec, n) => (codec as Codec<unknown>).write(to, values[n]))
  return to.done()
}
/** A row of values out of bytes; refused where bytes are missing or left over. */
export function decode<C extends readonly unknown[]>(types: C, bytes: Uint8Array): ValuesOf<C> {
  const from = new ByteReader(bytes)
  const values = types.map(codec => (codec as Codec<unknown>).read(from))
  if (from.left) throw refusal('ocp1.long', { left: from.left })
  return values as ValuesOf<C>
}
