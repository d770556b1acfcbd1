import { promiseTimeout } from '@vueuse/core'
import { defineAsyncComponent, h } from 'vue'
import type { AsyncComponentLoader, Component, FunctionalComponent, VNode } from 'vue'
import { phrase } from '~/parts/phrase'

/** Milliseconds until the server is asked again, and after which it does not answer. */
const [pause, patience] = [500, 2000]

/** Resolves once the server answers. */
async function served(): Promise<void> {
  const init = { method: 'HEAD', cache: 'no-store', signal: AbortSignal.timeout(patience) } as const
  const there = await fetch(location.pathname, init).then(() => true, () => false)
  if (there) return
  await promiseTimeout(pause)
  return served()
}

const plate = (content: VNode) => h('section', { class: 'plate sheet' }, content)
const Opening: FunctionalComponent = () => plate(h('p', { class: 'soft', role: 'status' }, phrase('parts.opening')))
const Failed: FunctionalComponent = () => plate(h('p', { class: 'sentence error', role: 'alert' }, [
  phrase('parts.thisPartDidNot'),
  h('button', { class: 'plain', onClick: () => location.reload() }, h('u', phrase('parts.reloadThePage'))),
]))

/**
 * A part of the page whose code comes when it is first shown. The server is waited for: a browser takes code that it
 * could not fetch once as missing for as long as its page is open.
 */
export const later = <T extends Component>(load: AsyncComponentLoader<T>) => defineAsyncComponent<T>({
  loader: () => served().then(load),
  loadingComponent: Opening,
  errorComponent: Failed,
  suspensible: false,
})
