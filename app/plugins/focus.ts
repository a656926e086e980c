/** v-focus: the field takes the focus when it appears. */
export default defineNuxtPlugin((nuxt) => {
  nuxt.vueApp.directive('focus', { mounted: (el: HTMLElement) => el.focus() })
})
