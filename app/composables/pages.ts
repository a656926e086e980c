import { ref, shallowRef, watch, type WatchSource } from 'vue'
import { holdKeys } from '~/composables/typeAhead'
import { problemText } from '~/utils/api'

/**
 * A list read page by page: read again when what it depends on changes, later answers of older questions
 * thrown away.
 */
export function usePages<T, A extends { items: T[]; next: string | null }>(
  read: (cursor: string | undefined) => Promise<A>,
  sources: WatchSource[],
  wait = 0,
) {
  const rows = shallowRef<T[]>([])
  const answer = shallowRef<A | null>(null)
  const loading = ref(false)
  const trouble = ref('')
  let asked = 0
  async function load(again = false): Promise<void> {
    const mine = ++asked
    loading.value = true
    try {
      const page = await read(again ? (answer.value?.next ?? undefined) : undefined)
      if (mine !== asked) return
      answer.value = page
      rows.value = again ? [...rows.value, ...page.items] : page.items
      trouble.value = ''
    } catch (error) {
      if (mine === asked) trouble.value = problemText(error)
    } finally {
      if (mine === asked) loading.value = false
    }
  }
  let timer: ReturnType<typeof setTimeout> | undefined
  watch(sources, () => {
    clearTimeout(timer)
    timer = setTimeout(() => {
      void load()
    }, wait)
  })
  // Keys typed before the first rows stand are meant for them.
  void load().finally(holdKeys())
  return {
    rows,
    answer,
    loading,
    trouble,
    reload: () => load(),
    more: () => (answer.value?.next && !loading.value ? load(true) : Promise.resolve()),
  }
}
