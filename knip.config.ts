import type { KnipConfig } from 'knip'

/** What nobody uses: files, packages and exported values. */
export default {
  entry: [
    'server/{entry,errors}.ts',
    'server/{api,routes,middleware,plugins,utils}/**/*.ts',
    'server/jobs/analysis.ts',
    'app/workers/*.worker.ts',
    'app/worklets/*.worklet.ts',
    'standins/device/main.ts',
    'scripts/*.mjs',
    'bench/*.{ts,mjs}',
    'core/reference/*.ts',
    'e2e/*.ts',
  ],
  project: ['{app,core,server,standins,scripts,bench,e2e}/**/*.{ts,vue,mjs}'],
  // named in Nuxt's configuration, in styles, and in commands
  ignoreDependencies: ['nuxt', 'primeicons', '@fontsource-variable/*'],
  ignoreBinaries: ['mount', 'umount'],
  exclude: ['types', 'enumMembers'],
} satisfies KnipConfig
