import { expect, madeTake, openDemo, test } from './pages'

test('a site is asked for beside the code of its page, and once', async ({ page, site }) => {
  const asked: string[] = []
  page.on('request', (request) => {
    const { pathname } = new URL(request.url())
    if (pathname === `/api${site.page}`) asked.push(request.resourceType())
  })
  await openDemo(page)
  expect(asked).toEqual(['other']) // what a page's head asks for ahead is of no type
})

test('takes that only computations want are not asked for any more when their site is left', async ({
  page, request, site,
}) => {
  const asked: string[] = []
  const held: (() => void)[] = []
  await page.route(/\/takes\/[^/]+\/data$/, async (route) => {
    asked.push(route.request().url())
    await new Promise<void>(go => held.push(go))
    await route.continue()
  })
  const sources = ['main-l', 'main-r', 'subs', 'front-fill']
  const bytes = { 'content-type': 'application/octet-stream' }
  for (const source of sources) for (const position of ['mix', 'mid', 'rear']) {
    const data = madeTake(source, position).body((await site.get()).number)
    expect((await request.post(`${site.path}/takes`, { data, headers: bytes })).status()).toBe(201)
  }
  await page.goto(`${site.page}/watch`)
  await expect.poll(() => asked.length).toBeGreaterThan(0)
  const all = (await site.takes()).length
  await page.getByTitle('All sites').click()
  await expect(page).toHaveURL(/\/$/)
  const before = asked.length
  expect(before).toBeLessThan(all)
  for (const go of held) go()
  // what was on its way comes; a new site's page asks for nothing of the old one
  await expect(page.getByRole('heading', { name: 'Sites' })).toBeVisible()
  await page.waitForLoadState('networkidle')
  expect(asked.length).toBe(before)
})
