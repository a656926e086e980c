import tailwindcss from '@tailwindcss/vite'

export default defineNuxtConfig({
  compatibilityDate: '2026-01-01',
  ssr: false,
  devtools: { enabled: false },
  telemetry: false,
  modules: ['@pinia/nuxt'],
  css: ['~/assets/main.css'],
  app: { head: { title: 'Bilancio', htmlAttrs: { lang: 'en' }, meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }], link: [{ rel: 'icon', href: '/icon.svg', type: 'image/svg+xml' }] } },
  vite: { plugins: [tailwindcss()] },
  nitro: { preset: 'node-server', sourceMap: false },
  components: [{ path: '~/components', pathPrefix: false }],
  imports: { dirs: [] },
  typescript: { strict: true, tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true } } },
})
