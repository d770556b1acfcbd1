import { kovrinPreset } from './app/themes/preset'

const isolated = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
}

export default defineNuxtConfig({
  modules: ['@pinia/nuxt', '@primevue/nuxt-module', '@vueuse/nuxt', 'nuxt-security', '@nuxt/eslint'],
  ssr: false,
  components: [{ path: '~/components', pathPrefix: false }],
  devtools: { enabled: false },
  app: {
    head: {
      title: 'Kovrin',
      htmlAttrs: { 'lang': 'en', 'data-theme': 'night' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
    },
  },
  css: ['~/themes/fonts.css', '~/themes/kovrin.css', 'primeicons/primeicons.css'],
  routeRules: { '/_nuxt/**': { headers: isolated } },
  compatibilityDate: '2026-11-01',
  nitro: {
    experimental: { websocket: true, openAPI: true },
    openAPI: {
      production: 'runtime',
      route: '/api/openapi.json',
      meta: {
        title: 'Kovrin',
        description: 'Sites, settings, takes and analysis. Bodies and answers are described in docs/formats.md.',
        version: '1',
      },
      ui: { scalar: false, swagger: false },
    },
  },
  vite: { worker: { format: 'es' }, server: { headers: isolated }, optimizeDeps: { include: ['chart.js'] } },
  typescript: { strict: true },
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
    components: { include: ['Button', 'Dialog'] },
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
        'connect-src': ['\'self\'', 'ws:'],
        'upgrade-insecure-requests': false,
      },
      permissionsPolicy: { 'microphone': ['self'], 'speaker-selection': ['self'] },
    },
    rateLimiter: false,
    xssValidator: false,
    requestSizeLimiter: false,
    removeLoggers: false,
  },
})
