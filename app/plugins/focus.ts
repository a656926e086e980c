/** v-focus: the field takes the focus when it appears; v-focus="false" leaves it. */
export default defineNuxtPlugin(nuxt => {
  nuxt.vueApp.directive('focus', {
    mounted: (el: HTMLElement, { value }: { value: unknown }) => {
      if (value !== false) el.focus()
    },
  })
})
