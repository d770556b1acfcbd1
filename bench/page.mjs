import { chromium } from '@playwright/test'

const url = process.env.KOVRIN_URL ?? 'http://127.0.0.1:4310'
const api = `${url}/api/sites`

/** Does something in headless Chromium on a copy of the demo site that is deleted afterwards. */
export async function onCopy(work) {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--autoplay-policy=no-user-gesture-required'],
  })
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  const ask = async (path, options) => (await page.request.fetch(`${api}${path}`, options)).json()
  const { id: site } = await ask('', { method: 'POST', data: { from: 'site', site: 'ropewalk-hall', name: 'Bench' } })
  try {
    await page.goto(`${url}/sites/${site}`)
    await work({ page, ask, site })
  }
  finally {
    const edits = [{ document: 'site', path: '/deleted', old: false, new: true }]
    await ask(`/${site}/changes`, { method: 'POST', data: { edits } })
    await browser.close()
  }
}

/** Pictures a second and the longest tasks of the page's main thread over so many milliseconds. */
export const feltOver = (page, time) =>
  page.evaluate(
    ms =>
      new Promise((done) => {
        const tasks = []
        const seen = new PerformanceObserver(list =>
          list.getEntries().forEach(e => tasks.push(Math.round(e.duration))),
        )
        seen.observe({ entryTypes: ['longtask'] })
        let pictures = 0
        const start = performance.now()
        const next = () => {
          pictures++
          if (performance.now() - start < ms) requestAnimationFrame(next)
          else
            done({
              'pictures a second': ((pictures / (performance.now() - start)) * 1000).toFixed(1),
              'tasks over 50 ms': tasks.length,
              'the longest of them, ms': Math.max(0, ...tasks),
            })
        }
        requestAnimationFrame(next)
      }),
    time,
  )
