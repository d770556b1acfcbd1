import { expect, test } from '@playwright/test'
import { exponentialSweep, pinkNoise, seededRandom } from '../core/dsp'
import { readCurveText } from '../core/formats/curveText'
import { readWav, writeWav } from '../core/formats/wav'

const rate = 48_000
const post = (channels: Float32Array[], sampleRate = rate) => ({
  headers: { 'content-type': 'audio/wav' },
  data: Buffer.from(writeWav({ sampleRate, channels })),
})
const noise = (seconds: number, seed: number) => {
  const x = new Float32Array(seconds * rate)
  pinkNoise(rate, seed)(x)
  return x.map(v => v * 0.1)
}

test('a recording is analysed over HTTP as live sound is: half the level, 5 ms later', async ({ request }) => {
  const x = noise(6, 1)
  const y = x.map((_, n) => 0.5 * (x[n - 240] ?? 0))
  const answer = await request.post('/api/analysis/transfer?mic=2&ref=1&smoothing=12', post([x, y]))
  expect(answer.status(), await answer.text()).toBe(200)
  expect(Number(answer.headers()['x-kovrin-arrival-ms'])).toBeCloseTo(5, 2)
  const curve = readCurveText(await answer.text())
  curve.frequencies.forEach((f, k) => {
    if (f > 25 && f < 19_000) {
      expect(Math.abs(curve.level[k]! + 6.02), `${f} Hz`).toBeLessThan(0.1)
      expect(Math.abs(curve.phase![k]!)).toBeLessThan(2)
      expect(curve.coherence![k]).toBeGreaterThan(0.98)
    }
  })
  const single = await request.post(
    '/api/analysis/transfer?mic=2&ref=1&length=4096&delay=5&window=blackman-harris&blocks=8',
    post([x, y]),
  )
  expect(single.headers()['x-kovrin-blocks']).toBe('8')
  expect(single.headers()['x-kovrin-warnings']).toContain(encodeURIComponent('below 47 Hz'))
})

test('what speaks against a transfer function stands beside it, and its estimator can be chosen', async ({
  request,
}) => {
  const x = noise(4, 1)
  const y = noise(4, 2)
  const told = async (mic: Float32Array, options = '') => {
    const answer = await request.post(`/api/analysis/transfer?mic=2&ref=1${options}`, post([x, mic]))
    expect(answer.status(), await answer.text()).toBe(200)
    const warnings = (answer.headers()['x-kovrin-warnings'] ?? '').split(',').map(decodeURIComponent).join(' ')
    return { text: await answer.text(), warnings }
  }
  expect((await told(x)).warnings).toBe('')
  const unrelated = await told(y)
  expect(unrelated.warnings).toMatch(/No arrival stands out/)
  expect(unrelated.warnings).toMatch(/Coherence is under 0.6 in \d+ %/)
  const most = x.reduce((a, v) => Math.max(a, Math.abs(v)), 0)
  expect((await told(x.map(v => Math.max(-0.3 * most, Math.min(0.3 * most, v))))).warnings).toMatch(/is clipped/)
  const noisy = x.map((v, n) => v + y[n]!)
  const level = ({ text }: { text: string }) => {
    const { frequencies, level: db } = readCurveText(text)
    const inside = [...frequencies.keys()].filter(k => frequencies[k]! > 300 && frequencies[k]! < 8000)
    return inside.reduce((sum, k) => sum + db[k]!, 0) / inside.length
  }
  const h1 = await told(noisy, '&delay=0&estimator=H1')
  expect(level(await told(noisy, '&delay=0&estimator=Hg')) - level(h1)).toBeCloseTo(3, 0)
  expect(level(await told(noisy, '&delay=0&estimator=H2')) - level(h1)).toBeCloseTo(6, 0)
  expect(h1.text.split('\n')[0]).toBe('frequency_hz,magnitude_db,phase_deg,coherence,confidence_db')
  expect((await request.post('/api/analysis/transfer?estimator=H9', post([x, y]))).status()).toBe(400)
})

test('a recorded sweep answers with decay times, signal-to-noise, speech transmission and its impulse '
  + 'response', async ({
  request,
}) => {
  const plan = { low: 20, high: 20_000, seconds: 2, level: -10 }
  const sweep = exponentialSweep(plan, rate)
  const random = seededRandom(4)
  const reference = new Float32Array(5 * rate)
  reference.set(sweep)
  // a room of 0.8 s: noise that decays, as a sparse response so that the test need not wait for it
  const taps = [
    [480, 1],
    ...Array.from({ length: 900 }, () => {
      const n = Math.floor(random() * 0.9 * rate)
      return [480 + n, (random() - 0.5) * 10 ** ((-3 * n) / rate / 0.8)]
    }),
  ] as [number, number][]
  const mic = new Float32Array(reference.length)
  for (const [late, gain] of taps)
    for (let n = late; n < mic.length; n++) mic[n]! += 0.1 * gain * reference[n - late]!
  const query = '/api/analysis/sweep?mic=1&ref=2&seconds=2&longest=1.5'
  const answer = await request.post(query, post([mic, reference]))
  const result = await answer.json()
  expect(answer.status()).toBe(200)
  expect(result.arrival).toBeCloseTo(0.01, 4)
  expect(Math.abs(result.bands.find((b: { band: string }) => b.band === '2 kHz').t20.time / 0.8 - 1)).toBeLessThan(
    0.15,
  )
  expect(result.sti).toBeGreaterThan(0.4)
  expect(result.harmonics.map((h: { order: number }) => h.order)).toEqual([2, 3, 4, 5])
  const wav = readWav(
    new Uint8Array(await (await request.post(`${query}&answer=wav`, post([mic, reference]))).body()),
  )
  expect(wav.channels[0]!.length).toBe(result.frames)
  const decay = await (await request.post('/api/analysis/decay?part=3', post(wav.channels))).json()
  expect(decay.bands).toHaveLength(23)
})

test('bands and levels of a recording', async ({ request }) => {
  const sine = Float32Array.from({ length: 2 * rate }, (_, n) => 0.5 * Math.sin((2 * Math.PI * 1000 * n) / rate))
  const bands = await (await request.post('/api/analysis/bands?part=1', post([sine]))).json()
  expect(bands.bands.find((b: { band: string }) => b.band === '1 kHz').level).toBeCloseTo(-9.03, 1)
  const level = await (
    await request.post('/api/analysis/level?weighting=A&time=slow&calibration=100', post([sine]))
  ).json()
  expect(level.equivalent).toBeCloseTo(100 - 9.03, 1)
})

test('wrong options and broken recordings are answered in a sentence, and the server goes on', async ({
  request,
}) => {
  const x = noise(1, 2)
  const says = async (path: string, body: ReturnType<typeof post>) => {
    const a = await request.post(`/api/analysis/${path}`, body)
    return [a.status(), (await a.json()).message]
  }
  expect(await says('transfer?length=1000', post([x, x]))).toEqual([400, expect.stringContaining('power of two')])
  expect(await says('transfer?nonsense=1', post([x, x]))).toEqual([400, expect.stringContaining('nonsense')])
  expect(await says('transfer?mic=1&ref=1', post([x, x]))).toEqual([422, expect.stringContaining('same channel')])
  expect(await says('transfer?mic=3&ref=1', post([x, x]))).toEqual([422, expect.stringContaining('no channel 3')])
  expect(await says('transfer?mic=1&ref=2', post([x, new Float32Array(rate)]))).toEqual([
    422,
    expect.stringContaining('reference is silent'),
  ])
  expect(await says('transfer', post([x.subarray(0, 500), x.subarray(0, 500)]))).toEqual([
    422,
    expect.stringContaining('too short'),
  ])
  expect(
    await says('decay', { headers: { 'content-type': 'audio/wav' }, data: Buffer.from('RIFF no wave at all') }),
  ).toEqual([422, 'This is not a WAV file.'])
  const cut = post([x])
  expect(await says('level', { ...cut, data: cut.data.subarray(0, 1000) })).toEqual([
    422,
    expect.stringContaining('cut short'),
  ])
  expect((await request.get('/api/health')).ok()).toBe(true)
})

test('unknown addresses, methods and options, and empty values, are refused in a sentence, never with a page', async ({
  request,
}) => {
  const x = noise(1, 2)
  const says = async (method: string, path: string, data?: object) => {
    const a = await request.fetch(path, { method, headers: { accept: 'text/html' }, ...data })
    expect(a.headers()['content-type'], path).toContain('application/json')
    return [a.status(), (await a.json()).message, a.headers().allow]
  }
  expect(await says('GET', '/api/nothing')).toEqual([404, expect.stringContaining('/api/docs'), undefined])
  expect(await says('GET', '/api')).toEqual([404, expect.stringContaining('nothing at'), undefined])
  expect(await says('GET', '/api/sites/no-such-site')).toEqual([404, 'There is no such site.', undefined])
  // what is to be acted by is the code, not the sentence
  expect(await (await request.get('/api/sites/no-such-site')).json()).toMatchObject({ code: 'site.noSuch', values: {} })
  expect(await (await request.get('/api/templates?limit=3')).json())
    .toMatchObject({ code: 'http.noOptions', values: { option: 'limit' } })
  expect(await says('PATCH', '/api/sites')).toEqual([405, expect.stringContaining('PATCH'), 'GET, POST'])
  expect(await says('GET', '/api/analysis/sweep')).toEqual([405, expect.stringContaining('only POST'), 'POST'])
  expect(await says('GET', '/api/templates?limit=3')).toEqual([400, expect.stringContaining('it has none'), undefined])
  expect(await says('POST', '/api/analysis/decay?mic=', post([x]))).toEqual([
    400,
    expect.stringContaining('mic is empty'),
    undefined,
  ])
  expect(await says('POST', '/api/analysis/decay?mic=1&mic=2', post([x]))).toEqual([
    400,
    expect.stringContaining('given once'),
    undefined,
  ])
  expect(await says('POST', '/api/analysis/sweep?low=1000&high=1000.01', post([x, x]))).toEqual([
    400,
    expect.stringContaining('octave'),
    undefined,
  ])
  const large = { headers: { 'content-type': 'application/json' }, data: Buffer.alloc(2 ** 21, 32) }
  expect(await says('POST', '/api/contents', large)).toEqual([413, expect.stringContaining('At most'), undefined])
})

test('the interface over HTTP is documented from its routes', async ({ page, request }) => {
  const document = await (await request.get('/api/openapi.json')).json()
  expect(document.paths['/api/analysis/transfer'].post.parameters.map((p: { name: string }) => p.name)).toContain(
    'length',
  )
  await page.goto('/api/docs')
  await expect(page.getByRole('heading', { name: 'POST /api/analysis/sweep' })).toBeVisible()
  await expect(page.getByText('the arrival in x-kovrin-arrival-ms')).toBeVisible()
})

test('the response of filters by their numbers, and what cannot be in a sentence', async ({ request }) => {
  const ask = (data: object) => request.post('/api/analysis/response', { data })
  const answer = await ask({
    sampleRate: 96_000,
    frequencies: [20, 1000, 20_000],
    blocks: [
      { kind: 'peaking', frequency: 1000, gain: -6, q: 1.4 },
      { kind: 'high-pass', family: 'linkwitz-riley', order: 4, frequency: 20 },
      { kind: 'polarity' },
      { kind: 'gain', gain: -3 },
    ],
  })
  expect(answer.status(), await answer.text()).toBe(200)
  const lines = (await answer.text()).trim().split('\n')
  expect(lines[0]).toBe('frequency_hz,magnitude_db,phase_deg')
  expect(lines).toHaveLength(4)
  expect(Number(lines[1]!.split(',')[1])).toBeCloseTo(-3 - 6.02, 1)
  expect(Number(lines[2]!.split(',')[1])).toBeCloseTo(-9, 2)
  const whole = readCurveText(await (await ask({ sampleRate: 44_100, blocks: [] })).text())
  expect(whole.frequencies.at(-1)).toBeLessThanOrEqual(22_050)
  whole.level.forEach(v => expect(v).toBeCloseTo(0, 9))
  for (const [body, status, words] of [
    [{ sampleRate: 48_000, blocks: [{ kind: 'peak' }] }, 400, /kind must be one of peaking/],
    [{ sampleRate: 48_000, blocks: [{ kind: 'notch', frequency: 'a', q: 1 }] }, 400, /frequency must be a number/],
    [{ sampleRate: 48_000, blocks: [{ kind: 'notch', frequency: 40_000, q: 1 }] }, 422, /Block 1, notch/],
    [{ sampleRate: 48_000, frequencies: [10, 5], blocks: [] }, 400, /frequencies must ascend/],
    [{ sampleRate: 48_000, blocks: [{ kind: 'peaking', frequency: 99, gain: 1, bandwidth: 1, convention: 'x' }] }, 400,
      /convention must be half-gain, three-db/],
    [{ blocks: [] }, 400, /sampleRate/],
  ] as const) {
    const refused = await ask(body)
    expect(refused.status(), JSON.stringify(body)).toBe(status)
    expect((await refused.json()).message).toMatch(words)
  }
})

test('filters are fitted to curves over HTTP, with what is left alone and why', async ({ request }) => {
  const frequencies = Array.from({ length: 200 }, (_, k) => 20 * 40 ** (k / 199))
  const hill = (f: number, gain: number, octaves: number) =>
    frequencies.map(x => gain * Math.exp(-((Math.log2(x / f) / octaves) ** 2)))
  const levels = hill(120, 8, 0.3).map((v, k) => v + hill(400, -15, 0.1)[k]!)
  const body = {
    sampleRate: 48_000,
    curves: [{ frequency_hz: frequencies, magnitude_db: levels }],
    target: 'flat',
    range: [20, 800],
    bands: 6,
    gain: [-18, 6],
    q: [0.4, 12],
  }
  const ask = (more: object) => request.post('/api/analysis/fit', { data: { ...body, ...more } })
  const fit = await (await ask({})).json()
  expect(fit.after).toBeLessThan(fit.before)
  expect(fit.filters.length).toBeLessThanOrEqual(6)
  const cut = fit.filters.reduce((a: { gain: number }, b: { gain: number }) => (b.gain < a.gain ? b : a))
  expect(Math.abs(Math.log2(cut.frequency / 120))).toBeLessThan(0.1)
  expect(fit.left).toEqual([{ frequency: expect.closeTo(400, -1), reason: expect.stringContaining('cancellation') }])
  const filled = await (await ask({ fill: true, gain: [-18, 18] })).json()
  expect(filled.after).toBeLessThan(0.4)
  for (const [more, status, words] of [
    [{ range: [800, 20] }, 400, /range must end above its start/],
    [{ range: [20, 30_000] }, 422, /half the sample rate/],
    [{ kinds: ['comb'] }, 400, /kinds must be of peaking, low-shelf, high-shelf/],
    [{ curves: [{ frequency_hz: [20, 30], magnitude_db: [0] }] }, 400, /at least 2|equally long/],
    [{ curves: [{ ...body.curves[0], weight: 0 }] }, 422, /weight 0/],
    [{ target: 'tilted' }, 400, /target must be "flat"/],
    [{ bands: 1.5 }, 400, /whole number/],
  ] as const) {
    const refused = await ask(more)
    expect(refused.status(), JSON.stringify(more)).toBe(status)
    expect((await refused.json()).message).toMatch(words)
  }
})
