import { useElementSize } from '@vueuse/core'
import { scalePoint } from 'd3'
import { computed, ref } from 'vue'

/** Pixels: how high a picture is, and the room that its labels take. */
export interface PictureSize {
  height: number
  left: number
  right: number
  top: number
  bottom: number
}

/**
 * A picture over days: how wide it is (`box` is the element that it fills), where a day stands (`x`), between
 * which heights values stand (`range`), and at which day the mouse is (`at`; null: away). `hover` follows the
 * mouse.
 */
export function useTimePicture(dates: () => readonly string[], size: PictureSize) {
  const box = ref<HTMLElement | null>(null)
  const { width } = useElementSize(box)
  const at = ref<number | null>(null)
  const ends = computed((): [number, number] => [
    size.left,
    Math.max(size.left + 1, width.value - size.right),
  ])
  const x = computed(() => scalePoint<string>().domain(dates()).range(ends.value))
  const range: [number, number] = [size.height - size.bottom, size.top]
  function hover(event: MouseEvent): void {
    const [from, to] = ends.value
    const last = dates().length - 1
    const far = event.clientX - (event.currentTarget as SVGElement).getBoundingClientRect().left - from
    at.value = Math.max(0, Math.min(last, Math.round((far / (to - from)) * last)))
  }
  return { box, width, x, range, at, hover }
}
