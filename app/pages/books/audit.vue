<script setup lang="ts">
import { reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { AuditRow } from '~~/contract/books'
import { usePages } from '~/composables/pages'
import { call } from '~/utils/api'
import { plural, timeText } from '~/utils/format'
import { trailWord } from '~/utils/trail'

definePageMeta({ noCard: true })
const query = reactive({ search: '', what: '', person: '', from: '', to: '' })
const { rows, answer, loading, trouble, more } = usePages<AuditRow, Awaited<ReturnType<typeof read>>>(
  read,
  [() => ({ ...query })],
  150,
)
function read(cursor: string | undefined) {
  return call(contract.books.audit, {
    query: {
      search: query.search || undefined,
      what: query.what || undefined,
      person: query.person || undefined,
      from: query.from || undefined,
      to: query.to || undefined,
      limit: 100,
      cursor,
    },
  })
}
/** The trail is kept in real days, not in those of the Clock. */
const now = new Date().toISOString().slice(0, 10)
const opened = ref<number | null>(null)

/** What was kept is JSON where it is whole, and text where it was cut. */
function laidOut(text: string): string {
  try {
    return JSON.stringify(JSON.parse(text), null, 1).replace(/^[{}]$|^ |"(\w+)":/gm, (_, key?: string) =>
      key ? `${key}:` : '',
    )
  } catch {
    return text
  }
}
const inALine = (r: AuditRow) => (r.after ?? r.before ?? '').replace(/[{}"]/g, '').replace(/,/g, ', ')
</script>

<template>
  <div class="sheet-head">
    <h1>Audit trail</h1>
    <FindField
      v-model="query.search"
      class="w-[200px]"
      placeholder="Number, customer, setting"
      label="Find in the trail"
    />
    <span
      ><label class="label" for="what">What </label
      ><select id="what" v-model="query.what" class="field">
        <option value="">anything</option>
        <option v-for="w in answer?.whats ?? []" :key="w" :value="w">{{ trailWord(w) }}</option>
      </select></span
    >
    <span
      ><label class="label" for="person">By </label
      ><select id="person" v-model="query.person" class="field">
        <option value="">anybody</option>
        <option v-for="p in answer?.people ?? []" :key="p.email" :value="p.email">{{ p.name }}</option>
      </select></span
    >
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="from">From </label
      ><DateField id="from" v-model="query.from" label="From" :today="now"
    /></span>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="to">to </label><DateField id="to" v-model="query.to" label="To" :today="now"
    /></span>
    <span class="hint ml-auto">{{ answer ? plural(answer.count, 'entry', 'entries') : '' }}</span>
  </div>
  <p v-if="trouble" class="wrong px-[18px]">{{ trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'at', label: 'When', width: 158 },
      { key: 'by', label: 'By', width: 130, cut: true },
      { key: 'what', label: 'What', width: 170, cut: true },
      { key: 'about', label: 'Concerns', width: 190, cut: true },
      { key: 'after', label: 'As asked, or as it is now', cut: true },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Audit trail"
    :opened="opened"
    @more="more"
    @open="
      r => {
        opened = opened === r.id ? null : r.id
      }
    "
  >
    <template #cell-at="{ row }">{{ timeText(row.at) }}</template><template #cell-by="{ row }">{{
      row.by
    }}</template>
    <template #cell-what="{ row }"
      ><button
        class="makes"
        tabindex="-1"
        :aria-expanded="opened === row.id"
        @click.stop="opened = opened === row.id ? null : row.id"
      >
        {{ trailWord(row.what) }}
      </button></template
    >
    <template #cell-about="{ row }">{{ row.about }}</template><template #cell-after="{ row }"
      ><span class="text-soft">{{ inALine(row) }}</span></template
    >
    <template #under="{ row }">
      <div class="grid grid-cols-2 gap-6">
        <section v-for="side in ['before', 'after'] as const" :key="side">
          <h2 class="mb-1">{{ side === 'before' ? 'Before' : 'After' }}</h2>
          <pre v-if="row[side]" class="max-h-64 overflow-auto whitespace-pre-wrap">{{
            laidOut(row[side]!)
          }}</pre>
          <p v-else class="hint">{{ side === 'before' ? 'nothing was there' : 'nothing is left' }}</p>
        </section>
      </div>
    </template>
  </SheetTable>
</template>
