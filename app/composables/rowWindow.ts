import { useVirtualizer } from '@tanstack/vue-virtual'
import { useResizeObserver } from '@vueuse/core'
import { computed, type Ref } from 'vue'

const ROW = 32

/**
 * Draws only the rows of a long table that are in sight, and brings a row into sight between the sticky head
 * and foot. Drawn rows carry `aria-rowindex`, from 1. `spare`: rows drawn beyond each edge, so that a turn of
 * the wheel shows no gap; fewer make keys quicker. Everything is read before it is written: moving the cursor
 * lays the page out once.
 */
export function useRowWindow(
  scroller: Ref<HTMLElement | null>,
  count: () => number,
  options: { keyOf?: (index: number) => string | number; spare?: number } = {},
) {
  const virtual = useVirtualizer(
    computed(() => ({
      count: count(),
      getScrollElement: () => scroller.value,
      estimateSize: () => ROW,
      overscan: options.spare ?? 10,
      ...(options.keyOf ? { getItemKey: options.keyOf } : {}),
    })),
  )
  const shown = computed(() => virtual.value.getVirtualItems())
  const before = computed(() => shown.value[0]?.start ?? 0)
  const after = computed(() => virtual.value.getTotalSize() - (shown.value.at(-1)?.end ?? 0))

  let last = -1
  function bringIntoSight(index: number): void {
    last = index
    const box = scroller.value
    if (!box) return
    const head = box.querySelector('thead')?.offsetHeight ?? 0
    const foot = box.querySelector('tfoot')?.offsetHeight ?? 0
    const row = box.querySelector<HTMLElement>(`tr[aria-rowindex="${index + 1}"]`)
    const top = row ? row.offsetTop : head + index * ROW
    const height = row ? row.offsetHeight : ROW
    const to = Math.max(
      0,
      Math.min(top - head, Math.max(box.scrollTop, top + height + foot - box.clientHeight)),
    )
    if (to === box.scrollTop) return
    box.scrollTop = to
    // Told at once, so that the rows that come are drawn together with the cursor and not a frame later.
    box.dispatchEvent(new Event('scroll'))
  }
  // The Proof grows under the table: the row of the cursor, if it was in sight, does not slip behind it.
  let height = 0
  useResizeObserver(scroller, ([entry]) => {
    const was = height
    height = entry!.contentRect.height
    const from = scroller.value?.scrollTop ?? 0
    if (height < was && last >= 0 && last < count() && last * ROW >= from - ROW && last * ROW < from + was)
      bringIntoSight(last)
  })
  /** Rows that fit, less two that stay in sight when turning a page. */
  const page = () => Math.max(1, Math.floor(((scroller.value?.clientHeight ?? 400) - 66) / ROW) - 2)
  return { shown, before, after, bringIntoSight, page }
}
