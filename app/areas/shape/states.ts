import { defineStore } from 'pinia'
import { equal } from '~~/core/units'
import { useShaping } from '~/document/shaping'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useKeys } from '~/parts/keys'
import { useNotices } from '~/parts/notices'
import { message } from '~~/core/words'

/** Two states of a strip, gone between with one key: what is heard now, and the other one. */
export const useStates = defineStore('states', () => {
  const site = useSite()
  const shaping = useShaping()
  const notices = useNotices()
  const keys = useKeys()
  const view = useView()
  const kept = ref<Record<string, Record<string, unknown>>>({})
  const key = computed(() => `${site.id} ${shaping.strip?.device} ${shaping.strip?.strip}`)
  const now = () => Object.fromEntries(shaping.settings.map(s => [s.parameter.path, s.draft]))

  async function swap() {
    const { strip, settings, name } = shaping
    if (!strip) return
    // what changes what is heard is done where it is seen
    if (view.area !== 'shape' && view.area !== 'rig')
      return notices.say('info', message('states.elsewhere'))
    const other = kept.value[key.value]
    if (!other) {
      kept.value = { ...kept.value, [key.value]: now() }
      return notices.say('info', message('states.stored', { strip: name, key: keys.shown('other') }))
    }
    const moved = settings.filter(s => !equal(s.draft, other[s.parameter.path]))
    const before = now()
    const edits = moved.map(s => ({ device: strip.device, path: s.parameter.path, value: other[s.parameter.path] }))
    if (edits.length && !(await site.editAll(edits))) return
    kept.value = { ...kept.value, [key.value]: before }
    notices.say('info', message(edits.length ? 'states.swapped' : 'states.same', { strip: name }))
  }
  return {
    has: computed(() => kept.value[key.value] !== undefined),
    swap,
    forget() {
      const { [key.value]: _, ...rest } = kept.value
      kept.value = rest
    },
  }
})
