<script setup lang="ts">
import { computed } from 'vue'
import type { Fault } from '~~/contract/common'
import type { ImportLook, ImportMapBody } from '~~/contract/documents'
import { oursOf, type ImportKind } from '~/composables/documents/importTable'

/**
 * What each column of a table is: theirs above, ours chosen below it, the first rows beneath with every fault
 * in its cell.
 */
const props = defineProps<{
  look: ImportLook
  missing: readonly string[]
  faults: readonly Fault[]
  /** Line of the file for each row of the checked form. */
  lines: readonly number[]
  disabled: boolean
}>()
const map = defineModel<ImportMapBody>({ required: true })
const emit = defineEmits<{ changed: []; kind: [kind: ImportKind] }>()

const SHOWN = 14
const names = computed(() => props.look.top[map.value.headerRow] ?? [])
const rows = computed(() =>
  props.look.top.slice(map.value.headerRow + 1, map.value.headerRow + 1 + SHOWN).map((cells, n) => ({
    cells: names.value.map((_, c) => cells[c] ?? ''),
    n,
    line: props.look.topLines[map.value.headerRow + 1 + n],
  })),
)
const ours = computed(() => oursOf(map.value.kind))
const oursAt = (place: number) =>
  Object.keys(map.value.columns).find(c => map.value.columns[c] === place) ?? ''

function set(change: Partial<ImportMapBody>): void {
  map.value = { ...map.value, ...change }
  emit('changed')
}
/** One of ours stands for one of theirs. */
function choose(place: number, column: string): void {
  const columns = Object.fromEntries(
    Object.entries(map.value.columns).filter(([c, p]) => p !== place && c !== column),
  )
  set({ columns: column ? { ...columns, [column]: place } : columns })
}

/** Faults by row of the preview and our column. */
const faultAt = computed(() => {
  const found = new Map<string, string>()
  const rowOfLine = new Map(rows.value.map(r => [r.line, r.n]))
  for (const f of props.faults) {
    if (f.line === undefined || !f.column) continue
    const row = rowOfLine.get(props.lines[f.line - 2])
    if (row !== undefined) found.set(`${row} ${f.column}`, f.message)
  }
  return found
})
const says = (n: number, place: number) => faultAt.value.get(`${n} ${oursAt(place)}`)
const DELIMITERS: Record<string, string> = { ';': 'semicolons', ',': 'commas', '\t': 'tabs', '|': 'bars' }
const form = computed(() =>
  [
    props.look.format === 'XLSX' ? 'Workbook' : `CSV with ${DELIMITERS[props.look.delimiter] ?? 'commas'}`,
    props.look.encoding,
    `${(props.look.rows - map.value.headerRow - 1).toLocaleString()} rows`,
    props.look.remembered ? 'read as you read such a file before' : '',
  ]
    .filter(Boolean)
    .join(', '),
)
const fixable = computed(() => props.missing.filter(c => ['country', 'currency'].includes(c)))
</script>

<template>
  <section aria-label="What the columns are">
    <p class="mb-2">{{ form }}</p>
    <div class="mb-3 flex flex-wrap items-baseline gap-x-5 gap-y-2">
      <span
        ><label class="label" for="kind">It holds </label
        ><select
          id="kind"
          class="field"
          :disabled="disabled"
          :value="map.kind"
          @change="emit('kind', ($event.target as HTMLSelectElement).value as ImportKind)"
        >
          <option value="customers">customers</option>
          <option value="documents">invoices, credit notes, debit notes</option>
          <option value="orders">orders and deliveries</option>
        </select></span
      >
      <span
        ><label class="label" for="header-row">Names of the columns in row </label
        ><input
          id="header-row"
          class="field w-14"
          type="number"
          min="1"
          max="16"
          :value="map.headerRow + 1"
          :disabled="disabled"
          @change="set({ headerRow: Math.max(0, Number(($event.target as HTMLInputElement).value) - 1) })"
      /></span>
      <span
        ><label class="label" for="order">Dates are </label
        ><select
          id="order"
          class="field"
          :class="look.dateUnsure ? 'border-accent' : ''"
          :value="map.order"
          :disabled="disabled"
          @change="set({ order: ($event.target as HTMLSelectElement).value as ImportMapBody['order'] })"
        >
          <option value="DMY">31/12/2026, day first</option>
          <option value="MDY">12/31/2026, month first</option>
          <option value="YMD">2026-12-31</option>
        </select></span
      >
      <span
        ><label class="label" for="decimal">Amounts are </label
        ><select
          id="decimal"
          class="field"
          :value="map.decimal"
          :disabled="disabled"
          @change="set({ decimal: ($event.target as HTMLSelectElement).value as '.' | ',' })"
        >
          <option value=".">1,234.56</option>
          <option value=",">1.234,56</option>
        </select></span
      >
      <template v-if="map.kind === 'documents'">
        <label class="label flex items-center gap-1.5"
          ><input
            type="checkbox"
            class="tick"
            :checked="map.negativeIsCredit"
            :disabled="disabled"
            @change="set({ negativeIsCredit: !map.negativeIsCredit })"
          />
          Less than nothing is a credit note</label
        >
        <label class="label flex items-center gap-1.5"
          ><input
            type="checkbox"
            class="tick"
            :checked="map.leaveOutZero"
            :disabled="disabled"
            @change="set({ leaveOutZero: !map.leaveOutZero })"
          />
          Leave out rows over nothing</label
        >
      </template>
    </div>
    <p v-if="look.dateUnsure" class="wrong mb-2" role="status">
      Nothing in the file tells whether day or month comes first: look at the dates below.
    </p>
    <p v-if="missing.length" class="wrong mb-2" role="status">
      Say which column holds {{ missing.join(', ')
      }}<template v-if="fixable.length">, or what it is in every row</template>.
    </p>
    <p v-for="c in [...new Set([...fixable, ...Object.keys(map.fixed)])]" :key="c" class="mb-2">
      <label class="label" :for="`fixed-${c}`">{{ c }} in every row </label
      ><input
        :id="`fixed-${c}`"
        class="field w-20"
        maxlength="40"
        :value="map.fixed[c] ?? ''"
        :disabled="disabled"
        @change="
          set({
            fixed: { ...map.fixed, [c]: ($event.target as HTMLInputElement).value.trim().toUpperCase() },
          })
        "
      />
    </p>
    <div class="overflow-x-auto border-y border-rule" tabindex="0" role="region" aria-label="The first rows">
      <table class="grid-table">
        <thead>
          <tr>
            <th v-for="(name, place) in names" :key="place" class="align-bottom">
              <span class="block max-w-[170px] truncate" :title="name">{{ name || '—' }}</span><select
                class="field mt-1 w-[124px] font-normal"
                :class="oursAt(place) ? '' : 'text-soft'"
                :aria-label="`Column ${name || place + 1} holds`"
                :value="oursAt(place)"
                :disabled="disabled"
                @change="choose(place, ($event.target as HTMLSelectElement).value)"
              >
                <option value="">left aside</option>
                <option v-for="c in ours" :key="c" :value="c">{{ c.replace(/_/g, ' ') }}</option>
              </select>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in rows" :key="r.n">
            <td
              v-for="(cell, place) in r.cells"
              :key="place"
              class="max-w-[220px] truncate"
              :class="[oursAt(place) ? '' : 'text-soft', says(r.n, place) ? 'wrong bg-wash' : '']"
              :title="says(r.n, place) ?? cell"
            >
              {{ cell }}<span v-if="says(r.n, place)" class="sr-only"> {{ says(r.n, place) }}</span>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
