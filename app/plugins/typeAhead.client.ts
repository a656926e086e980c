import { nextTick } from 'vue'
import { captureKeys, holdKeys } from '~/composables/typeAhead'

/** From the moment a screen is left until the next one stands, keys are held for it. */
export default defineNuxtPlugin(nuxtApp => {
  captureKeys()
  const router = useRouter()
  let release: (() => void) | undefined
  const settle = async () => {
    await nextTick()
    release?.()
    release = undefined
  }
  router.beforeEach((to, from) => {
    if (to.path !== from.path) release ??= holdKeys()
  })
  nuxtApp.hook('page:finish', settle)
  router.afterEach((_to, _from, failure) => {
    if (failure) void settle()
  })
  router.onError(() => {
    void settle()
  })
})
