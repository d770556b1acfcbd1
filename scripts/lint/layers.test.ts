import { ESLint } from 'eslint'
import { describe, expect, it } from 'vitest'

const lint = new ESLint()
/** The faults that the lint finds in a text, were it this file. */
async function faults(filePath: string, text: string) {
  const [result] = await lint.lintText(`${text}\n`, { filePath })
  const mine = result!.messages.filter(m => ['kovrin/layers', 'no-restricted-globals'].includes(m.ruleId ?? ''))
  return mine.map(m => m.message)
}

describe('the lint by layers', () => {
  it.each<[string, string, string]>([
    [
      'what lies above, statically',
      'core/dsp/planted.ts',
      `import { predict } from '../rig'\n\nexport const x = predict`,
    ],
    ['what lies above, dynamically', 'core/rig/planted.ts', `export const x = () => import('../documents')`],
    ['what lies above, as a type', 'core/units/planted.ts', `export type X = import('../dsp').Curve`],
    ['what lies above, passed on', 'core/measure/planted.ts', `export * from '../tune'`],
    [
      'the page, by its alias',
      'core/tune/planted.ts',
      `import { useSite } from '~/document/site'\n\nexport const x = useSite`,
    ],
    ['a framework', 'core/documents/planted.ts', `import { ref } from 'vue'\n\nexport const x = ref(1)`],
    ['a database', 'core/documents/planted.ts', `import pg from 'pg'\n\nexport const x = pg`],
    ['a computed module', 'core/rig/planted.ts', `export const x = (name: string) => import(name)`],
    ['the page’s window', 'core/dsp/planted.ts', `export const x = () => window.innerWidth`],
    ['the network', 'core/documents/planted.ts', `export const x = () => fetch('/api')`],
    ['a process', 'core/rig/planted.ts', `export const x = process.env.HOME`],
    [
      'the server’s code in the page',
      'app/document/planted.ts',
      `import { database } from '~~/server/store/client'\n\nexport const x = database`,
    ],
    [
      'the simulated hall beside its doors',
      'app/document/planted.ts',
      `import { createVenue } from '~~/standins/venue/venue'\n\nexport const x = createVenue`,
    ],
    [
      'the stand-ins in the server',
      'server/links/planted.ts',
      `import { runDevice } from '../../standins/device/device'\n\nexport const x = runDevice`,
    ],
    ['the page in the server', 'server/store/planted.ts', `export const x = () => import('../../app/document/api')`],
    [
      'the server in a stand-in',
      'standins/device/planted.ts',
      `import { database } from '../../server/store/client'\n\nexport const x = database`,
    ],
    ['a device’s link in the store', 'server/store/planted.ts', `export * from '../links/links'`],
    ['a temporary state in a link', 'server/links/planted.ts', `export * from '../leases/leases'`],
    ['an answer in a link', 'server/links/planted.ts', `export const x = () => import('../utils/answers')`],
    ['a link in what pages follow', 'server/live/planted.ts', `export type X = import('../links/link').SendOutcome`],
    [
      'one area in another',
      'app/areas/align/planted.ts',
      `import { useShape } from '~/areas/shape/states'\n\nexport const x = useShape`,
    ],
    [
      'an area in a chart',
      'app/charts/planted.ts',
      `import { useStates } from '~/areas/shape/states'\n\nexport const x = useStates`,
    ],
    [
      'what an area is made of in the frame',
      'app/frame/planted.ts',
      `export const x = () => import('~/areas/site/SitePlate.vue')`,
    ],
    [
      'the frame in an area',
      'app/areas/rig/planted.ts',
      `export type X = import('~/frame/useCommands').Command`,
    ],
    ['what is measured in a part', 'app/parts/planted.ts', `export * from '~/sound/listen'`],
    ['a library of controls outside the parts', 'app/charts/planted.ts', `export * from 'primevue/button'`],
    ['a file in no known layer', 'app/somewhere/planted.ts', `export const x = 1`],
    ['a folder that nobody has named', 'elsewhere/planted.ts', `export const x = 1`],
    ['the page’s window by its other name', 'core/dsp/planted.ts', `export const x = () => globalThis.innerWidth`],
    [
      'Node’s own in the simulated hall',
      'standins/venue/planted.ts',
      `import { readFileSync } from 'node:fs'\n\nexport const x = readFileSync`,
    ],
  ])('refuses %s', async (_, file, text) => {
    expect(await faults(file, text)).not.toEqual([])
  })
  it('lets pass what runs downwards', async () => {
    expect(
      await faults('core/rig/planted.ts', `import { ratioOf } from '../units'\n\nexport const x = ratioOf`),
    ).toEqual([])
    expect(
      await faults(
        'app/sound/planted.ts',
        `import { createVenue } from '~~/standins/venue/venue'\n\nexport const x = createVenue`,
      ),
    ).toEqual([])
    const shared = `import { useSite } from '~/document/site'\n\nexport const x = useSite`
    for (const file of ['app/areas/align/planted.ts', 'app/frame/planted.ts', 'app/sound/planted.ts'])
      expect(await faults(file, shared)).toEqual([])
    expect(await faults('server/links/planted.ts', `export const x = process.env.HOME`)).toEqual([])
  })
})
