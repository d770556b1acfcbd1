import { refusal } from '../../words'

const utf8 = { decoder: new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }), encoder: new TextEncoder() }

/** Bytes of a UTF-8 character by its first one; 1 for what begins none (the decoder refuses it). */
function lengthOfCharacter(lead: number): number {
  if (lead < 0xC0 || lead >= 0xF8) return 1
  if (lead < 0xE0) return 2
  return lead < 0xF0 ? 3 : 4
}

/** Reads values of OCP.1 (big endian throughout) one after the other; throws a refusal where bytes are missing. */
export class ByteReader {
  private readonly view: DataView
  private at = 0
  constructor(private readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }

  get left(): number { return this.bytes.length - this.at }

  private skip(count: number): number {
    if (count > this.left) throw refusal('ocp1.short', { wanted: count, left: this.left })
    this.at += count
    return this.at - count
  }

  u8 = () => this.view.getUint8(this.skip(1))
  u16 = () => this.view.getUint16(this.skip(2))
  u32 = () => this.view.getUint32(this.skip(4))
  u64 = () => this.view.getBigUint64(this.skip(8))
  i8 = () => this.view.getInt8(this.skip(1))
  i16 = () => this.view.getInt16(this.skip(2))
  i32 = () => this.view.getInt32(this.skip(4))
  i64 = () => this.view.getBigInt64(this.skip(8))
  f32 = () => this.view.getFloat32(this.skip(4))
  f64 = () => this.view.getFloat64(this.skip(8))

  /** `count` bytes, as a copy that keeps nothing else alive. */
  take = (count: number): Uint8Array => {
    const from = this.skip(count)
    // slice() of a Buffer would be a view
    return new Uint8Array(this.bytes.subarray(from, from + count))
  }

  /** A text: its number of code points (not of bytes), then UTF-8. */
  text = (): string => {
    let points = this.u16()
    const from = this.at
    while (points-- > 0) this.skip(lengthOfCharacter(this.bytes[this.at] ?? 0))
    try {
      return utf8.decoder.decode(this.bytes.subarray(from, this.at))
    }
    catch { throw refusal('ocp1.noText') }
  }
}

/** Writes values of OCP.1 one after the other into bytes that grow. */
export class ByteWriter {
  private bytes = new Uint8Array(64)
  private view = new DataView(this.bytes.buffer)
  private length = 0
  /** Where the room that was made begins. */
  private at = 0

  /** Makes room for so many bytes at `at`; gives the view of what holds them now. */
  private room(count: number): DataView {
    this.at = this.length
    this.length += count
    if (this.length > this.bytes.length) {
      const grown = new Uint8Array(Math.max(this.length, 2 * this.bytes.length))
      grown.set(this.bytes)
      this.bytes = grown
      this.view = new DataView(grown.buffer)
    }
    return this.view
  }

  u8 = (value: number) => this.room(1).setUint8(this.at, value)
  u16 = (value: number) => this.room(2).setUint16(this.at, value)
  u32 = (value: number) => this.room(4).setUint32(this.at, value)
  u64 = (value: bigint) => this.room(8).setBigUint64(this.at, value)
  i8 = (value: number) => this.room(1).setInt8(this.at, value)
  i16 = (value: number) => this.room(2).setInt16(this.at, value)
  i32 = (value: number) => this.room(4).setInt32(this.at, value)
  i64 = (value: bigint) => this.room(8).setBigInt64(this.at, value)
  f32 = (value: number) => this.room(4).setFloat32(this.at, value)
  f64 = (value: number) => this.room(8).setFloat64(this.at, value)
  put = (bytes: Uint8Array) => {
    this.room(bytes.length)
    this.bytes.set(bytes, this.at)
  }

  /** A count of 16 bits. Throws a refusal where there are more. */
  count = (count: number) => {
    if (count > 0xFFFF) throw refusal('ocp1.many', { count })
    this.u16(count)
  }

  text = (value: string) => {
    const well = value.replace(/[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g, '\uFFFD')
    this.count([...well].length)
    this.put(utf8.encoder.encode(well))
  }

  /** All that was written, as a copy. */
  done = (): Uint8Array => this.bytes.slice(0, this.length)
}
