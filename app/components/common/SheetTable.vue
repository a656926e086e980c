<script setup lang="ts" generic="T extends object">
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { useKeys } from '~/composables/keys'
import { useRowWindow } from '~/composables/rowWindow'

/**
 * The one table: sticky head and foot, sort by head, row cursor by arrow keys, rows drawn as they scroll
 * in, more asked for near the end.
 * Cells by slot `cell-<key>`, totals by slot `foot-<key>`, what opens under a row by slot `under`.
 */
export interface Column {
  key: string
  label: string
  num?: boolean
  width?: number
  sort?: string
  cut?: boolean
  title?: string
  /** Gives way when there is too little room: 1 first, then 2, and so on. Without it: never. */
  gives?: number
}
const props = defineProps<{
  columns: Column[]
  rows: T[]
  rowKey: (row: T) => string | number
  sort?: string
  more?: boolean
  loading?: boolean
  label: string
  opened?: string | number | null
  rowClass?: (row: T) => string
}>()
const emit = defineEmits<{ 'update:sort': [string]; more: []; cursor: [T]; open: [T] }>()
const slots = defineSlots<{
  [name: string]: (scope: { row: T; index: number; columns?: readonly Column[] }) => unknown
}>()
const scroller = ref<HTMLElement | null>(null)
const at = ref(0)
const { shown, before, after, bringIntoSight, page } = useRowWindow(scroller, () => props.rows.length, {
  keyOf: i => props.rowKey(props.rows[i]!),
})
watch(shown, list => {
  if (
    props.more &&
    !props.loading &&
    (list.at(-1)?.index ?? 0) >= props.rows.length - 15 &&
    props.rows.length
  )
    emit('more')
})

function move(to: number): void {
  if (!props.rows.length) return
  at.value = Math.max(0, Math.min(props.rows.length - 1, to))
  bringIntoSight(at.value)
  emit('cursor', props.rows[at.value]!)
}
watch(
  () => props.rows,
  (rows, old) => {
    if (!rows.length || (old?.length && rows.length > old.length && rows[0] === old[0])) return
    const same = old?.[at.value] ? rows.findIndex(r => props.rowKey(r) === props.rowKey(old[at.value]!)) : -1
    at.value = same >= 0 ? same : Math.min(at.value, rows.length - 1)
    emit('cursor', rows[at.value]!)
    // A row that was worked leaves: the next one takes its place. Another list begins at its top.
    const oneLeft = old !== undefined && old.length - rows.length === 1
    if (same < 0 && !oneLeft) {
      at.value = 0
      void nextTick(() => scroller.value?.scrollTo({ top: 0 }))
      emit('cursor', rows[0]!)
    }
  },
  { immediate: true },
)
useKeys([
  { key: 'ArrowDown', label: 'Next row', run: () => move(at.value + 1) },
  { key: 'ArrowUp', label: 'Row before', run: () => move(at.value - 1) },
  { key: 'PageDown', label: '', run: () => move(at.value + page()) },
  { key: 'PageUp', label: '', run: () => move(at.value - page()) },
  { key: 'Home', label: '', run: () => move(0) },
  { key: 'End', label: '', run: () => move(props.rows.length - 1) },
  {
    key: 'Enter',
    label: 'Open the row',
    run: () => {
      if (props.rows[at.value]) emit('open', props.rows[at.value]!)
    },
  },
])
/** The least room of a column: what it asks for, or what figures, names and dates usually need. */
const leastOf = (c: Column) => c.width ?? (c.num ? 84 : c.cut ? 190 : 72)
const { width: room } = useElementSize(scroller)
/** Columns for which there is room; figures and dates are never cut, a whole column gives way instead. */
const fitting = computed(() => {
  const kept = [...props.columns]
  const needed = () => kept.reduce((sum, c) => sum + leastOf(c), 0)
  const giving = kept.filter(c => c.gives).sort((a, b) => a.gives! - b.gives!)
  while (room.value && needed() > room.value && giving.length) kept.splice(kept.indexOf(giving.shift()!), 1)
  return kept
})
// The columns that may be cut and ask for no width share all the room that the others leave.
const sharing = computed(() => fitting.value.filter(c => c.cut && !c.width).length)
const slack = computed(() => {
  if (sharing.value <= 1 || !room.value) return '100%'
  const taken = fitting.value.filter(c => c.width || !c.cut).reduce((sum, c) => sum + leastOf(c), 0)
  return `${Math.max(60, Math.floor((room.value - taken) / sharing.value))}px`
})
const widthOf = (c: { width?: number; cut?: boolean }) =>
  c.width ? { width: `${c.width}px`, minWidth: `${c.width}px` } : { width: c.cut ? slack.value : '1px' }
const arrow = (c: Column) => (props.sort === c.sort ? ' ↑' : props.sort === `-${c.sort}` ? ' ↓' : '')
const resort = (c: Column) =>
  emit(
    'update:sort',
    props.sort === `-${c.sort}`
      ? c.sort!
      : props.sort === c.sort
        ? `-${c.sort}`
        : c.num
          ? `-${c.sort}`
          : c.sort!,
  )
defineExpose({ move, cursor: at })
</script>

<template>
  <div
    ref="scroller"
    class="relative min-h-0 flex-1 overflow-auto"
    tabindex="0"
    :aria-label="label"
    role="region"
  >
    <table class="grid-table" :aria-rowcount="rows.length">
      <thead>
        <tr>
          <th
            v-for="c in fitting"
            :key="c.key"
            :class="c.num ? 'num' : ''"
            :style="widthOf(c)"
            :title="c.title"
            :aria-sort="sort === c.sort ? 'ascending' : sort === `-${c.sort}` ? 'descending' : undefined"
          >
            <button v-if="c.sort" class="hover:text-ink" @click="resort(c)">
              {{ c.label }}{{ arrow(c) }}</button
            ><template v-else>{{ c.label }}</template>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-if="before > 0" aria-hidden="true">
          <td :colspan="fitting.length" class="!border-0 !p-0" :style="{ height: `${before}px` }" />
        </tr>
        <template v-for="v in shown" :key="String(v.key)">
          <tr
            class="link"
            :class="[v.index === at ? 'on' : '', rowClass?.(rows[v.index]!) ?? '']"
            :data-row="rowKey(rows[v.index]!)"
            :aria-rowindex="v.index + 1"
            :aria-selected="v.index === at"
            @click="move(v.index)"
            @dblclick="emit('open', rows[v.index]!)"
          >
            <td v-for="c in fitting" :key="c.key" :class="[c.num ? 'num' : '', c.cut ? 'cut' : '']">
              <slot :name="`cell-${c.key}`" :row="rows[v.index]!" :index="v.index" />
            </td>
          </tr>
          <tr v-if="slots.under && opened === rowKey(rows[v.index]!)">
            <td :colspan="fitting.length" class="!h-auto !whitespace-normal bg-row py-2">
              <slot name="under" :row="rows[v.index]!" :index="v.index" />
            </td>
          </tr>
        </template>
        <tr v-if="after > 0" aria-hidden="true">
          <td :colspan="fitting.length" class="!border-0 !p-0" :style="{ height: `${after}px` }" />
        </tr>
      </tbody>
      <tfoot v-if="$slots.foot && rows.length">
        <slot name="foot" :row="rows[0]!" :index="0" :columns="fitting" />
      </tfoot>
    </table>
    <div v-if="!rows.length && !loading" class="p-[18px] text-soft">
      <slot name="empty" :row="rows[0]!" :index="0" />
    </div>
    <p v-if="loading && !rows.length" class="hint p-[18px]">Reading the ledger …</p>
  </div>
</template>
