import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { scipy } from '../reference/scipy'
import { seededRandom } from '../dsp'
import { curveOfText, readCurveText, textOfCurve, writeCurveText } from './curveText'
import { readWav, writeWav, type WavKind } from './wav'

const random = seededRandom(3)
const sound = (count: number, frames: number) =>
  Array.from({ length: count }, () => Float32Array.from({ length: frames }, () => 1.9 * (random() - 0.5)))
const bytesOf = (base64: string) => new Uint8Array(Buffer.from(base64, 'base64'))

describe('WAV', () => {
  it.each([
    ['pcm8', 1, 1 / 127],
    ['pcm16', 2, 2 ** -15],
    ['pcm24', 3, 2 ** -23],
    ['pcm32', 32, 2 ** -24],
    ['float32', 2, 1e-7],
    ['float64', 1, 1e-7],
  ] as const)('%s with %d channels as scipy and Python write it', async (kind, count, step) => {
    const channels = sound(count, 101)
    const wav = readWav(
      bytesOf(await scipy<string>('write_wav', { kind, rate: 44_100, channels: channels.map(c => Array.from(c)) })),
    )
    expect(wav.sampleRate).toBe(44_100)
    expect(wav.channels).toHaveLength(count)
    wav.channels.forEach((c, k) =>
      c.forEach((v, n) => expect(Math.abs(v - channels[k]![n]!)).toBeLessThanOrEqual(step)),
    )
  })
  it.each(['float32', 'pcm24', 'pcm16'] as WavKind[])(
    '%s that we write is read by scipy, and by us without loss',
    async (kind) => {
      const channels = sound(3, 57)
      const file = writeWav({ sampleRate: 96_000, channels }, kind)
      const step = { float32: 1e-7, pcm24: 2 ** -23, pcm16: 2 ** -15 }[kind]
      const theirs = await scipy<{ rate: number, channels: number[][] }>('read_wav', {
        data: Buffer.from(file).toString('base64'),
      })
      expect(theirs.rate).toBe(96_000)
      theirs.channels.forEach((c, k) =>
        c.forEach((v, n) => expect(Math.abs(v - channels[k]![n]!)).toBeLessThanOrEqual(step)),
      )
      const again = readWav(file)
      expect(writeWav(again, kind)).toEqual(file)
    },
  )
  it('full scale is limited, not wrapped', () => {
    const read = readWav(writeWav({ sampleRate: 48_000, channels: [Float32Array.of(1.5, -1.5, 1, -1)] }, 'pcm16'))
      .channels[0]!
    expect(Array.from(read)).toEqual([32767 / 32768, -1, 32767 / 32768, -1])
    expect(() => writeWav({ sampleRate: 48_000, channels: [new Float32Array(2), new Float32Array(3)] })).toThrow(
      'one length',
    )
  })
  const file = writeWav({ sampleRate: 48_000, channels: sound(2, 64) }, 'float32')
  const changed = (at: number, value: number, bytes: 2 | 4 = 4) => {
    const copy = file.slice()
    const view = new DataView(copy.buffer)
    if (bytes === 4) view.setUint32(at, value, true)
    else view.setUint16(at, value, true)
    return copy
  }
  it.each([
    ['nothing', new Uint8Array(0), 'not a WAV'],
    ['text', new TextEncoder().encode('hello hello hello'), 'not a WAV'],
    ['a truncated file', file.subarray(0, 300), 'cut short'],
    ['a huge claim', changed(40, 0xffff_fff0), 'cut short'],
    ['no channels', changed(22, 0, 2), '0 channels'],
    ['too many channels', changed(22, 4000, 2), '4000 channels'],
    ['a strange width', changed(34, 20, 2), '20 bits'],
    ['a frame that contradicts', changed(32, 7, 2), 'contradicts'],
    ['no rate', changed(24, 0), 'sample rate'],
    ['no sound', changed(40, 0), 'no sound'],
    ['not a number', changed(44, 0x7fc0_0000), 'not numbers'],
  ])('%s is refused with a sentence', (_, bytes, words) => {
    expect(() => readWav(bytes)).toThrow(words)
  })
  it('whatever the bytes, it answers with sound or a RangeError', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(file.length - 1), fc.nat(255)), { maxLength: 12 }),
        fc.nat(file.length),
        (edits, length) => {
          const copy = file.slice(0, length || file.length)
          for (const [at, value] of edits) if (at < copy.length) copy[at] = value
          try {
            expect(readWav(copy).channels.length).toBeGreaterThan(0)
          }
          catch (error) {
            expect(error).toBeInstanceOf(RangeError)
          }
        },
      ),
      { numRuns: 400 },
    )
  })
})

describe('curves as text', () => {
  const three = { frequencies: [100, 1000, 10_000], level: [-3, 0.5, 2], phase: [10, -20, 30] }
  const expectThree = (text: string, withPhase = true) => {
    const read = readCurveText(text)
    expect(Array.from(read.frequencies)).toEqual(three.frequencies)
    expect(Array.from(read.level)).toEqual(three.level)
    expect(read.phase && Array.from(read.phase)).toEqual(withPhase ? three.phase : null)
  }
  it.each([
    ['tabs', '100\t-3\t10\n1000\t0.5\t-20\n10000\t2\t30'],
    ['commas', '100,-3,10\r\n1000,0.5,-20\r\n10000,2,30\r\n'],
    ['commas with blanks', '100, -3, 10\n1000, 0.5, -20\n10000, 2, 30'],
    ['semicolons and decimal commas', 'Hz;dB;deg\n100;-3,0;10\n1000;0,5;-20\n10000;2;30'],
    ['blanks', '  100   -3.0  10\n  1000  0.5  -20\n 10000 2 30'],
    ['blanks and decimal commas', '100 -3,0 10\n1000 0,5 -20\n10000 2,0 30'],
    [
      'comments of every kind',
      '* measured somewhere\n# Freq dB Phase\n; x\n// '
      + 'y\n"Frequency"\t"Level"\t"Phase"\n100\t-3\t10\n\n1000\t0.5\t-20\n10000\t2\t30',
    ],
    ['kilohertz', 'Frequency [kHz], Magnitude [dB], Phase [deg]\n0.1,-3,10\n1,0.5,-20\n10,2,30'],
    ['any order', '10000 2 30\n100 -3 10\n1000 0.5 -20'],
    ['columns named in another order', 'phase,freq,mag\n10,100,-3\n-20,1000,0.5\n30,10000,2'],
    ['a true minus sign and exponents', '1e2 \u22123 10\n1e3 5e-1 \u221220\n1e4 2 30'],
    ['a byte order mark, and 0 Hz', '\uFEFFf mag phase\n0 -80 0\n100 -3 10\n1000 0.5 -20\n10000 2 30'],
  ])('%s', (_, text) => expectThree(text))
  it('without phase, with coherence as a part or in percent', () => {
    expectThree('100 -3\n1000 0.5\n10000 2', false)
    expect(Array.from(readCurveText('freq mag phase coh\n100 -3 1 0.9\n200 1 2 1').coherence!)).toEqual([0.9, 1])
    expect(Array.from(readCurveText('freq;mag;phase;coherence %\n100;-3;1;90\n200;1;2;100').coherence!)).toEqual([
      0.9, 1,
    ])
    expect(Array.from(readCurveText('freq,mag,coherence\n100,-3,0.5\n200,1,0.25').coherence!)).toEqual([0.5, 0.25])
  })
  it.each([
    ['', 'at least two lines'],
    ['hello\nworld', 'at least two lines'],
    ['100 -3', 'at least two lines'],
    ['100 -3\n200 x', 'Line 2: “x” is not a number'],
    ['100 -3\n200', 'Line 2: the level is missing'],
    ['100 1\n100 2', '100 Hz is there twice'],
    ['100 NaN\n200 1', 'Line 1: “NaN”'],
    ['100 1e999\n200 1', 'not a number'],
  ])('%j is refused: %s', (text, words) => {
    expect(() => readCurveText(text)).toThrow(words)
  })
  it('what we write we read: nothing is lost, in either kind, with or without phase and coherence', () => {
    const finite = (min: number, max: number) => fc.double({ min, max, noNaN: true })
    fc.assert(
      fc.property(
        fc.uniqueArray(finite(1, 40_000), { minLength: 2, maxLength: 40, selector: f => f.toPrecision(8) }),
        fc.boolean(),
        fc.boolean(),
        fc.constantFrom('text', 'csv'),
        (frequencies, withPhase, withCoherence, kind) => {
          const sorted = Float64Array.from(frequencies).sort()
          const column = (of: (k: number) => number) => Float64Array.from(sorted, (_, k) => of(k))
          const curve = {
            frequencies: sorted,
            level: column(k => Math.sin(k) * 40),
            phase: withPhase ? column(k => Math.cos(3 * k) * 179) : null,
            coherence: withPhase && withCoherence ? column(k => 0.5 + 0.5 * Math.sin(k)) : null,
          }
          const read = readCurveText(writeCurveText(curve, kind as 'text'))
          for (const name of ['frequencies', 'level', 'phase', 'coherence'] as const) {
            expect(read[name] === null).toBe(curve[name] === null)
            read[name]?.forEach((v, k) =>
              expect(Math.abs(v - curve[name]![k]!)).toBeLessThan(1e-7 * Math.max(1, Math.abs(v))),
            )
          }
        },
      ),
    )
  })
  it('text and complex values are two views of one curve', () => {
    const text = readCurveText('freq,mag,phase,coherence\n100,-6,45,0.5\n200,3,-170,1')
    const again = textOfCurve(curveOfText(text))
    again.level.forEach((v, k) => expect(v).toBeCloseTo(text.level[k]!, 9))
    again.phase!.forEach((v, k) => expect(v).toBeCloseTo(text.phase![k]!, 9))
    expect(
      textOfCurve({
        frequencies: Float64Array.of(10, 20, 30),
        re: Float64Array.of(0, 1, 1),
        im: new Float64Array(3),
        coherence: null,
      }).frequencies,
    ).toHaveLength(2)
  })
  it('headings decide what magnitude and phase are; where they do not and both may be, the text is refused', () => {
    const linear = readCurveText('frequency_hz,magnitude_lin,phase_rad\n100,0.5,3.1\n200,2,-1.5')
    expect([...linear.level].map(v => v.toFixed(2))).toEqual(['-6.02', '6.02'])
    expect([...linear.phase!].map(v => v.toFixed(1))).toEqual(['177.6', '-85.9'])
    const degrees = readCurveText('freq\tmagnitude_db\tphase_deg\n100\t-6\t3.1\n200\t2\t-1.5')
    expect([...degrees.phase!]).toEqual([3.1, -1.5])
    expect([...degrees.level]).toEqual([-6, 2])
    expect(() => readCurveText('100 -6 3.1\n200 2 -1.5')).toThrow(/degrees or radians/)
    expect(readCurveText('100 -6 31\n200 2 -1.5').phase![0]).toBe(31)
    expect(() => readCurveText('freq,mag_lin\n100,0.5\n200,0')).toThrow(/Line 3.*above 0/)
  })
  it('any text is answered with a curve or a RangeError', () => {
    fc.assert(
      fc.property(
        fc.string({
          unit: fc.constantFrom('1', '2', '.', ',', ';', '\t', ' ', '\n', '-', 'e', 'k', 'Hz', '#', '"'),
          maxLength: 120,
        }),
        (text) => {
          try {
            expect(readCurveText(text).frequencies.length).toBeGreaterThan(1)
          }
          catch (error) {
            expect(error).toBeInstanceOf(RangeError)
          }
        },
      ),
      { numRuns: 400 },
    )
  })
})
