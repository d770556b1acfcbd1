/** A stereo 32-bit float WAV file (RIFF, format 3). */
export function stereoWav(left: Float32Array, right: Float32Array, sampleRate: number): Buffer {
  const data = Buffer.alloc(left.length * 8)
  for (let n = 0; n < left.length; n++) {
    data.writeFloatLE(left[n]!, 8 * n)
    data.writeFloatLE(right[n]!, 8 * n + 4)
  }
  const head = Buffer.alloc(44)
  head.write('RIFF', 0)
  head.writeUInt32LE(36 + data.length, 4)
  head.write('WAVEfmt ', 8)
  head.writeUInt32LE(16, 16)
  head.writeUInt16LE(3, 20)
  head.writeUInt16LE(2, 22)
  head.writeUInt32LE(sampleRate, 24)
  head.writeUInt32LE(sampleRate * 8, 28)
  head.writeUInt16LE(8, 32)
  head.writeUInt16LE(32, 34)
  head.write('data', 36)
  head.writeUInt32LE(data.length, 40)
  return Buffer.concat([head, data])
}
