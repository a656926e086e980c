import { nextTick, watch, type WatchSource } from 'vue'

/**
 * After a drawer that was opened by a key closes, the keys of the screen work again at once: the focus goes
 * back to nothing, not to the field that somebody typed in before.
 */
export function useFocusBack(open: WatchSource<boolean>): void {
  let nowhere = false
  watch(
    open,
    async is => {
      if (is) {
        nowhere = document.activeElement === document.body || document.activeElement === null
        return
      }
      if (!nowhere) return
      await nextTick()
      for (const wait of [0, 30]) {
        setTimeout(() => {
          if (document.activeElement instanceof HTMLElement && !document.querySelector('[role="dialog"]'))
            document.activeElement.blur()
        }, wait)
      }
    },
    { flush: 'sync' },
  )
}
