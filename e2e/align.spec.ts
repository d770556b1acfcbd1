import { expect, test } from '@playwright/test'
import { classical, filterInPlace } from '../core/dsp'
import { writeWav } from '../core/formats/wav'

const rate = 48_000

test.describe('several sources at several positions', () => {
  const late = 240
  /** Two positions; the sub is 240 samples late and turned round. */
  const responses = (sub: boolean) => [0, 1].map((n) => {
    const x = new Float64Array(9600)
    x[300 + 90 * n + (sub ? late : 0)] = sub ? -0.8 : 1
    filterInPlace(x, classical('linkwitz-riley', sub ? 'low' : 'high', 4, 90, rate))
    return Float32Array.from(x)
  })
  const wavOf = (channels: Float32Array[], sampleRate = rate) =>
    ({ name: 'x.wav', mimeType: 'audio/wav', buffer: Buffer.from(writeWav({ sampleRate, channels })) })
  const parts = () => ({ main: wavOf(responses(false)), sub: wavOf(responses(true)) })
  const wish = { reference: 'main', move: 'sub', delay: [-0.02, 0.02], polarity: true }

  test('the delay, the polarity and the level that bring one to the other', async ({ request }) => {
    const options = JSON.stringify({ ...wish, level: [-6, 6], band: [45, 180] })
    const answer = await request.post('/api/analysis/align', { multipart: { ...parts(), options } })
    expect(answer.status(), await answer.text()).toBe(200)
    const { candidates, band } = await answer.json()
    expect(band).toEqual([45, 180])
    expect(candidates[0].delay).toBeCloseTo(-late / rate, 5)
    expect(candidates[0].polarity).toBe(-1)
    expect(candidates[0].level).toBeGreaterThan(0)
    expect(candidates[0].score).toBeGreaterThan(-0.05)
    expect(candidates[0].positions).toHaveLength(2)
    expect(candidates[0].reasons.length).toBeGreaterThan(0)
  })
  test('their complex sum at every position', async ({ request }) => {
    const sources = { main: {}, sub: { gain: 1.94, delay: -late / rate, polarity: -1 } }
    const options = JSON.stringify({ sources })
    const answer = await request.post('/api/analysis/sum', { multipart: { ...parts(), options } })
    expect(answer.status(), await answer.text()).toBe(200)
    const lines = (await answer.text()).trim().split('\n')
    expect(lines[0]).toBe('position,frequency_hz,magnitude_db,phase_deg')
    const heard = lines.slice(1).map(l => l.split(',').map(Number))
    expect(new Set(heard.map(l => l[0]))).toEqual(new Set([1, 2]))
    // Linkwitz–Riley passes of one corner sum flat (Linkwitz 1976)
    for (const [, f, level] of heard) if (f! > 30 && f! < 10_000) expect(Math.abs(level!)).toBeLessThan(0.05)
  })
  test('what does not go together is told', async ({ request }) => {
    const ask = (multipart: Record<string, unknown>, what = 'align') =>
      request.post(`/api/analysis/${what}`, { multipart: multipart as Record<string, string> })
    const cases: [Record<string, unknown>, number, RegExp, string?][] = [
      [{ ...parts() }, 400, /one part options/],
      [{ ...parts(), options: '{' }, 400, /not JSON/],
      [{ ...parts(), options: JSON.stringify({ ...wish, delay: [1, 0] }) }, 400, /delay must end above its start/],
      [{ ...parts(), options: JSON.stringify({ ...wish, move: 'main' }) }, 400, /two sources/],
      [{ ...parts(), options: JSON.stringify({ ...wish, move: 'fill' }) }, 422, /no source “fill”; .*“main”, “sub”/],
      [{ ...parts(), options: JSON.stringify({ ...wish, weights: [1] }) }, 422, /2 positions, but 1 weights/],
      [{ ...parts(), sub: wavOf([responses(true)[0]!]), options: JSON.stringify(wish) }, 422, /has 1 positions/],
      [{ ...parts(), sub: wavOf(responses(true), 44_100), options: JSON.stringify(wish) }, 422, /44100 Hz/],
      [{ main: wavOf(responses(false)), sub: { name: 'x', mimeType: 'audio/wav', buffer: Buffer.from('no') },
        options: JSON.stringify(wish) }, 422, /“sub”: /],
      [{ ...parts(), options: JSON.stringify({ sources: {} }) }, 400, /at least one source/, 'sum'],
      [{ ...parts(), options: JSON.stringify({ sources: { main: { polarity: 2 } } }) }, 400, /polarity must be 1 or -1/,
        'sum'],
    ]
    for (const [multipart, status, words, what] of cases) {
      const answer = await ask(multipart, what)
      expect(answer.status(), String(words)).toBe(status)
      expect((await answer.json()).message).toMatch(words)
    }
    const plain = await request.post('/api/analysis/align', { data: { x: 1 } })
    expect(plain.status()).toBe(400)
    expect((await plain.json()).message).toMatch(/multipart\/form-data/)
    const broken = await request.post('/api/analysis/align', {
      headers: { 'content-type': 'multipart/form-data; boundary=x' }, data: Buffer.from('--y\r\n'),
    })
    expect(broken.status()).toBe(400)
  })
})
