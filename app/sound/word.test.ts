import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { effectScope, ref } from 'vue'
import { useWord } from './word'

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setInterval', 'clearInterval', 'setTimeout', 'clearTimeout', 'performance'] })
})
afterEach(() => {
  vi.useRealTimers()
})

const ben = { who: 'Ben', what: 'sweep 3 of 40', left: 200 }
function page(id: string) {
  const sounds = ref(false)
  const told: string[] = []
  let events: Parameters<Parameters<typeof useWord>[0]['site']['onSound']>[0] | null = null
  const silence = vi.fn(() => {
    sounds.value = false
  })
  const lost = vi.fn()
  const tell = ({ type }: { type: string }) => told.push(type)
  const site = { id, onSound: (e: typeof events) => (events = e), tell }
  const scope = effectScope()
  const said = () => ({ who: id, what: 'noise', left: null })
  const word = scope.run(() => useWord({ site, sounds, said, silence, lost }))!
  return {
    sounds, told, silence, lost, word,
    hush: () => events!.hush(),
    say: () => events!.word(),
    hears: () => events!.other('b', ben),
  }
}

it('a page sounds on as long as the server gives it the word, and stops within 200 ms of losing it', () => {
  const a = page('hall')
  a.sounds.value = true
  for (let n = 0; n < 20; n++) {
    vi.advanceTimersByTime(300)
    a.say()
  }
  expect(a.silence).not.toHaveBeenCalled()
  expect(a.told.length).toBeGreaterThan(15)
  // the word is lost 2 s after it was heard last; then it may take 300 ms to be seen, and what waits is read first
  vi.advanceTimersByTime(1900)
  expect(a.silence).not.toHaveBeenCalled()
  vi.advanceTimersByTime(700)
  expect(a.silence).toHaveBeenCalledTimes(1)
  expect(a.lost).toHaveBeenCalledTimes(1)
  // silent pages ask nothing
  const asked = a.told.length
  vi.advanceTimersByTime(5000)
  expect(a.told.length).toBe(asked)
})

it('what was said while the page was busy is read before the word counts as lost', () => {
  const a = page('hall')
  a.sounds.value = true
  vi.advanceTimersByTime(2100)
  a.say()
  vi.advanceTimersByTime(1000)
  expect(a.silence).not.toHaveBeenCalled()
})

it('who else sounds is known for as long as it says so', () => {
  const a = page('hall')
  expect(a.word.other.value).toBeNull()
  for (let n = 0; n < 4; n++) {
    a.hears()
    vi.advanceTimersByTime(1500)
    expect(a.word.other.value).toEqual({ page: 'b', ...ben })
  }
  vi.advanceTimersByTime(1500)
  expect(a.word.other.value).toBeNull()
})

it('Hush of any page reaches every page of the site, also without the server', async () => {
  const [a, b, other] = [page('hall'), page('hall'), page('elsewhere')]
  for (const p of [a, b, other]) p.sounds.value = true
  a.word.takeBack()
  expect(a.told).toContain('hush')
  vi.useRealTimers()
  await vi.waitFor(() => expect(b.silence).toHaveBeenCalled())
  expect(other.silence).not.toHaveBeenCalled()
  other.hush()
  expect(other.silence).toHaveBeenCalled()
})
