import tailwindcss from '@tailwindcss/vite'

export default defineNuxtConfig({
  compatibilityDate: '2026-01-01',
  ssr: false,
  devtools: { enabled: false },
  telemetry: false,
  // Without it the development server finds no server entry under this Vite.
  experimental: { viteEnvironmentApi: process.env.NODE_ENV === 'development' },
  modules: ['@pinia/nuxt'],
  css: ['~/assets/main.css'],
  app: {
    head: {
      title: 'Bilancio',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
      link: [{ rel: 'icon', href: '/icon.svg', type: 'image/svg+xml' }],
    },
  },
  vite: { plugins: [tailwindcss()] },
  // The application runs from its own checkout: packages are taken from node_modules as installed, not
  // copied.
  nitro: {
    preset: 'node-server',
    sourceMap: false,
    externals: { trace: false },
    ...(process.env.BILANCIO_OUTPUT ? { output: { dir: process.env.BILANCIO_OUTPUT } } : {}),
  },
  components: [{ path: '~/components', pathPrefix: false }],
  imports: { dirs: [] },
  typescript: { strict: true, tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true } } },
})
