import { refusal } from '../words'

/** Sound from a WAV file: one array a channel, full scale 1. */
export interface Wav {
  sampleRate: number
  channels: Float32Array[]
}

export type WavKind = 'float32' | 'pcm24' | 'pcm16'

const mostChannels = 64
const text = (view: DataView, at: number) =>
  String.fromCharCode(view.getUint8(at), view.getUint8(at + 1), view.getUint8(at + 2), view.getUint8(at + 3))

type Reader = (view: DataView, at: number) => number
/** By format tag (1 PCM, 3 float) and bits. */
const readers: Record<string, Reader> = {
  '1/8': (v, at) => (v.getUint8(at) - 128) / 128,
  '1/16': (v, at) => v.getInt16(at, true) / 2 ** 15,
  '1/24': (v, at) => (v.getInt8(at + 2) * 2 ** 16 + v.getUint16(at, true)) / 2 ** 23,
  '1/32': (v, at) => v.getInt32(at, true) / 2 ** 31,
  '3/32': (v, at) => v.getFloat32(at, true),
  '3/64': (v, at) => v.getFloat64(at, true),
}

/**
 * Reads RIFF WAVE (PCM of 8 to 32 bits, float of 32 or 64, plain or extensible; broadcast chunks are passed
 * over). Source:
 * Microsoft/IBM RIFF MCI 1991, EBU Tech 3285. Throws RangeError in one sentence for anything cut short,
 * impossible or not a number.
 */
export function readWav(bytes: Uint8Array): Wav {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < 12 || text(view, 0) !== 'RIFF' || text(view, 8) !== 'WAVE')
    throw refusal('wav.noWav')
  let format: { tag: number, channels: number, rate: number, align: number, bits: number } | null = null
  let data: { at: number, length: number } | null = null
  for (let at = 12; at + 8 <= bytes.length && !data;) {
    const name = text(view, at)
    const length = view.getUint32(at + 4, true)
    const body = at + 8
    if (name === 'fmt ') {
      if (length < 16 || body + length > bytes.length)
        throw refusal('wav.formatShort')
      let tag = view.getUint16(body, true)
      if (tag === 0xfffe && length >= 40) tag = view.getUint16(body + 24, true)
      format = {
        tag,
        channels: view.getUint16(body + 2, true),
        rate: view.getUint32(body + 4, true),
        align: view.getUint16(body + 12, true),
        bits: view.getUint16(body + 14, true),
      }
    }
    else if (name === 'data') {
      if (body + length > bytes.length)
        throw refusal('wav.short', { announced: length, held: bytes.length - body })
      data = { at: body, length }
    }
    at = body + length + (length & 1)
  }
  if (!format) throw refusal('wav.noFormat')
  if (!data) throw refusal('wav.noSound')
  const { channels: count, rate, align, bits } = format
  const read = readers[`${format.tag}/${bits}`]
  if (!read)
    throw refusal('wav.formatNotRead', { format: format.tag, bits })
  if (count < 1 || count > mostChannels)
    throw refusal('wav.channels', { count, most: mostChannels })
  if (rate < 1000 || rate > 768_000) throw refusal('wav.noRate', { rate })
  const width = bits / 8
  if (align !== width * count)
    throw refusal('wav.contradicts', { count, bits, align })
  const frames = Math.floor(data.length / align)
  if (!frames) throw refusal('wav.noSound')
  const channels = Array.from({ length: count }, () => new Float32Array(frames))
  for (let c = 0; c < count; c++) {
    const channel = channels[c]!
    for (let n = 0, at = data.at + c * width; n < frames; n++, at += align) channel[n] = read(view, at)
    if (!channel.every(Number.isFinite))
      throw refusal('wav.noNumbers', { channel: c + 1 })
  }
  return { sampleRate: rate, channels }
}

/**
 * Writes a WAV file; integers are rounded and limited to full scale. Throws RangeError for no channel or
 * channels of different length.
 */
export function writeWav({ sampleRate, channels }: Wav, kind: WavKind = 'float32'): Uint8Array<ArrayBuffer> {
  const frames = channels[0]?.length ?? 0
  if (!channels.length || channels.some(c => c.length !== frames))
    throw new RangeError('A WAV file needs channels of one length.')
  const width = { float32: 4, pcm24: 3, pcm16: 2 }[kind]
  const align = width * channels.length
  const size = frames * align
  const bytes = new Uint8Array(44 + size + (size & 1))
  const view = new DataView(bytes.buffer)
  const word = (at: number, name: string) => {
    for (let k = 0; k < 4; k++) view.setUint8(at + k, name.charCodeAt(k))
  }
  word(0, 'RIFF')
  view.setUint32(4, bytes.length - 8, true)
  word(8, 'WAVE')
  word(12, 'fmt ')
  view.setUint32(16, 16, true)
  ;[kind === 'float32' ? 3 : 1, channels.length].forEach((v, k) => view.setUint16(20 + 2 * k, v, true))
  view.setUint32(24, sampleRate, true)
  view.setUint32(28, sampleRate * align, true)
  view.setUint16(32, align, true)
  view.setUint16(34, width * 8, true)
  word(36, 'data')
  view.setUint32(40, size, true)
  const whole = (v: number, most: number) => Math.max(-most, Math.min(most - 1, Math.round(v * most)))
  channels.forEach((channel, c) => {
    for (let n = 0, at = 44 + c * width; n < frames; n++, at += align) {
      if (kind === 'float32') view.setFloat32(at, channel[n]!, true)
      else if (kind === 'pcm16') view.setInt16(at, whole(channel[n]!, 2 ** 15), true)
      else {
        const v = whole(channel[n]!, 2 ** 23)
        view.setUint16(at, v & 0xffff, true)
        view.setInt8(at + 2, v >> 16)
      }
    }
  })
  return bytes
}
