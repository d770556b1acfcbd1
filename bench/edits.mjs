// npm run bench:edits, with Kovrin running: live edits from 50 pages, 100 a second together, for ten seconds, and one
// page alone, edit after edit. Says how long the answers take, with the device's own confirmation in them.
const url = process.env.KOVRIN_URL ?? 'http://127.0.0.1:4310'
const headers = { 'content-type': 'application/json' }
const ask = async (path, body) => {
  const answer = await fetch(url + path, { method: body ? 'POST' : 'GET', headers, body: body && JSON.stringify(body) })
  if (!answer.ok) throw new Error((await answer.json()).message)
  return answer.json()
}
const { id } = await ask('/api/sites', { from: 'template', template: 'nothing', rig: 'simulated', name: 'Bench' })
const path = `/api/sites/${id}`
const isLive = async () => {
  const { documents } = await ask(path)
  const links = Object.entries(documents).filter(([key]) => key.startsWith('link/'))
  return links.filter(([, link]) => link.state === 'live').length === 4
}
while (!(await isLive())) await new Promise(next => setTimeout(next, 50))

const values = new Map()
/** One step of one parameter, live; gives the milliseconds until its answer. */
async function edit(n) {
  const parameter = `/outputs/${n % 16}/eq/${Math.floor(n / 16) % 4}`
  const old = values.get(parameter)
  const next = { on: true, type: 'peaking', frequency: 1000, gain: ((old?.gain ?? 0) + 0.5) % 6, q: 1 }
  const started = performance.now()
  const edits = [{ document: 'settings/processor', path: parameter, new: next, ...(old ? { old } : {}) }]
  const { why } = await ask(`${path}/changes`, { edits, live: true })
  if (why) throw new Error(why)
  values.set(parameter, next)
  return performance.now() - started
}
const say = (what, times) => {
  times.sort((a, b) => a - b)
  const at = part => times[Math.floor((times.length - 1) * part)].toFixed(1)
  const spread = `middle ${at(0.5)} ms, nine of ten within ${at(0.9)} ms, worst ${at(1)} ms`
  console.log(`${what}: ${times.length} edits, ${spread}`)
}

const alone = []
for (let n = 0; n < 100; n++) alone.push(await edit(n % 50))
say('One page, edit after edit', alone)
const together = []
const begun = performance.now()
await Promise.all(Array.from({ length: 50 }, async (_, page) => {
  for (let n = 0; n < 20; n++) {
    await new Promise(next => setTimeout(next, Math.max(0, begun + page * 10 + n * 500 - performance.now())))
    together.push(await edit(page))
  }
}))
const seconds = (performance.now() - begun) / 1000
say(`50 pages, ${(together.length / seconds).toFixed(0)} edits a second`, together)
await ask(`${path}/changes`, { edits: [{ document: 'site', path: '/deleted', old: false, new: true }] })
