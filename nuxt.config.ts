import { fileURLToPath } from 'node:url'
import { kovrinPreset } from './app/themes/preset'

/** What every TypeScript project is held to beyond `strict`. */
const strictness = {
  noUncheckedIndexedAccess: true,
  exactOptionalPropertyTypes: true,
  noImplicitReturns: true,
  noFallthroughCasesInSwitch: true,
  noUnusedLocals: true,
}
const isolated = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
}

/** Answers of the interface are of the moment, and no page but for the one that describes it, which runs nothing. */
const closed = {
  'Cache-Control': 'no-store',
  'Content-Security-Policy': 'default-src \'none\'; style-src \'unsafe-inline\'; frame-ancestors \'none\'; '
    + 'base-uri \'none\'; form-action \'none\'',
  'X-Content-Type-Options': 'nosniff',
}

export default defineNuxtConfig({
  modules: ['@pinia/nuxt', '@primevue/nuxt-module', 'nuxt-security', '@nuxt/eslint'],
  $production: { nitro: { entry: fileURLToPath(new URL('./server/entry.ts', import.meta.url)) } },
  ssr: false,
  // what a file takes from the page stands in its imports, so that every edge is seen; parts are everywhere
  components: [{ path: '~/parts', pathPrefix: false, extensions: ['vue'] }],
  imports: { scan: false, transform: { exclude: [/\/core\//, /\/standins\//] } },
  devtools: { enabled: false },
  app: {
    head: {
      title: 'Kovrin',
      htmlAttrs: { 'lang': 'en', 'data-theme': 'night' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
    },
  },
  css: ['~/themes/fonts.css', '~/themes/kovrin.css', 'primeicons/primeicons.css'],
  routeRules: { '/_nuxt/**': { headers: isolated }, '/api/**': { headers: closed } },
  compatibilityDate: '2026-11-01',
  nitro: {
    compressPublicAssets: { gzip: true, brotli: true },
    experimental: { websocket: true },
    errorHandler: fileURLToPath(new URL('./server/errors.ts', import.meta.url)),
    typescript: { tsConfig: { compilerOptions: strictness } },
  },
  vite: {
    worker: { format: 'es' },
    server: { headers: isolated },
    optimizeDeps: { include: ['chart.js'] },
    // sentences are ICU and said by core/words: of vue-i18n neither its own compiler nor its components are sent
    resolve: { alias: { 'vue-i18n': 'vue-i18n/dist/vue-i18n.runtime.esm-bundler.js' } },
    define: {
      __VUE_I18N_FULL_INSTALL__: false,
      __VUE_I18N_LEGACY_API__: false,
      __INTLIFY_PROD_DEVTOOLS__: false,
      __INTLIFY_DROP_MESSAGE_COMPILER__: true,
    },
  },
  typescript: {
    strict: true,
    tsConfig: { compilerOptions: strictness, files: ['../server/modules.d.ts', '../server/matchers.d.ts'] },
    nodeTsConfig: { compilerOptions: strictness },
    sharedTsConfig: { compilerOptions: strictness },
  },
  telemetry: false,
  eslint: {
    config: {
      stylistic: {
        indent: 2,
        quotes: 'single',
        semi: false,
        braceStyle: 'stroustrup',
        arrowParens: false,
        commaDangle: 'always-multiline',
        quoteProps: 'consistent-as-needed',
      },
    },
  },
  primevue: {
    // the library is taken in by app/parts alone
    autoImport: false,
    components: { include: [] },
    directives: { include: [] },
    options: { theme: { preset: kovrinPreset, options: { darkModeSelector: '[data-theme="night"]' } } },
  },
  security: {
    headers: {
      crossOriginOpenerPolicy: 'same-origin',
      crossOriginEmbedderPolicy: 'require-corp',
      crossOriginResourcePolicy: 'same-origin',
      contentSecurityPolicy: {
        'default-src': ['\'self\''],
        'script-src': ['\'self\'', '\'strict-dynamic\'', '\'nonce-{{nonce}}\'', '\'wasm-unsafe-eval\''],
        'style-src': ['\'self\'', '\'unsafe-inline\''],
        'img-src': ['\'self\'', 'data:', 'blob:'],
        'font-src': ['\'self\''],
        'worker-src': ['\'self\'', 'blob:'],
        'connect-src': ['\'self\''],
        'upgrade-insecure-requests': false,
      },
      permissionsPolicy: { 'microphone': ['self'], 'speaker-selection': ['self'] },
      // Kovrin itself speaks plain HTTP; whoever puts TLS before it says this there
      strictTransportSecurity: false,
    },
    corsHandler: false,
    rateLimiter: false,
    xssValidator: false,
    requestSizeLimiter: false,
    removeLoggers: false,
  },
})
