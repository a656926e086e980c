<script setup lang="ts">
import { useDropZone } from '@vueuse/core'
import { computed, ref } from 'vue'
import { contract } from '~~/contract'
import type { Fault } from '~~/contract/common'
import { CUSTOMER_COLUMNS, DOCUMENT_COLUMNS, type ImportResult, type Job } from '~~/contract/documents'
import { useJob } from '~/composables/job'
import { useDesk } from '~/stores/desk'
import { ApiProblem, call, problemText } from '~/utils/api'
import { amountText, plural } from '~/utils/format'

definePageMeta({ noCard: true })
const desk = useDesk()
const kind = ref<'customers' | 'documents'>('documents')
const file = ref<File | null>(null)
const text = ref('')
const skipExisting = ref(false)
const { job, follow, stop } = useJob()
const checked = ref<Job | null>(null)
const faults = ref<Fault[]>([])
const trouble = ref('')
const busy = ref(false)
const zone = ref<HTMLElement | null>(null)
const picker = ref<HTMLInputElement | null>(null)
const { isOverDropZone } = useDropZone(zone, {
  onDrop: files => {
    if (files?.[0]) void take(files[0])
  },
})
const columns = computed(() => (kind.value === 'customers' ? CUSTOMER_COLUMNS : DOCUMENT_COLUMNS))
function reset(): void {
  checked.value = null
  job.value = null
  faults.value = []
  trouble.value = ''
}
async function take(chosen: File): Promise<void> {
  reset()
  file.value = chosen
  const bytes = new Uint8Array(await chosen.arrayBuffer())
  try {
    text.value = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    trouble.value = 'The file is not UTF-8 text. Save it again as CSV UTF-8.'
    return
  }
  // The header tells which of the two it is.
  const header = text.value.slice(0, 2000).split(/\r?\n/)[0]!.toLowerCase()
  if (/\bterms\b|credit_limit|\bname\b/.test(header)) kind.value = 'customers'
  else if (/\bamount\b/.test(header)) kind.value = 'documents'
  await run(true)
}
/** Checks or imports as a job, following its progress. */
async function run(dryRun: boolean): Promise<void> {
  busy.value = true
  if (dryRun) reset()
  trouble.value = ''
  try {
    const operation = kind.value === 'customers' ? contract.imports.customers : contract.imports.documents
    const queued = (await call(operation, {
      query: { dryRun: dryRun ? '1' : undefined, skipExisting: skipExisting.value ? '1' : undefined },
      body: text.value,
      headers: { prefer: 'respond-async' },
    })) as unknown as { job: number }
    const ended = await follow(queued.job)
    if (ended.state === 'done' && dryRun) checked.value = ended
    else if (ended.state === 'done') {
      const { imported } = ended.result as ImportResult
      desk.say({
        text: `${plural(imported, kind.value === 'customers' ? 'customer' : 'document')} imported.`,
        to: kind.value === 'customers' ? '/accounts' : '/aging',
        action: 'Look at them',
      })
      checked.value = null
      file.value = null
    } else {
      trouble.value = ended.detail.charAt(0).toUpperCase() + ended.detail.slice(1)
      faults.value = ended.errors
    }
  } catch (error) {
    trouble.value = problemText(error)
    if (error instanceof ApiProblem) faults.value = error.problem.errors ?? []
  } finally {
    busy.value = false
  }
}
const found = computed(() => (checked.value?.result ?? null) as ImportResult | null)
const percent = computed(() => (job.value?.total ? Math.round((100 * job.value.done) / job.value.total) : 0))
</script>

<template>
  <div class="sheet-head">
    <h1>Import</h1>
    <span class="hint"
      >CSV with a header line, comma or semicolon, UTF-8. One bad row, and nothing is imported.</span
    >
  </div>
  <div class="min-h-0 flex-1 overflow-auto px-[18px] pb-8">
    <div class="mb-3 flex flex-wrap items-baseline gap-5">
      <span
        ><label class="label" for="kind">The file holds </label
        ><select id="kind" v-model="kind" class="field" :disabled="busy" @change="text && run(true)">
          <option value="customers">customers</option>
          <option value="documents">invoices, credit notes, debit notes</option>
        </select></span
      >
      <label class="label flex items-center gap-1.5"
        ><input
          v-model="skipExisting"
          type="checkbox"
          class="tick"
          :disabled="busy"
          @change="text && run(true)"
        />
        Skip numbers that are there already</label
      >
    </div>
    <div
      ref="zone"
      class="grid place-items-center border border-dashed px-6 py-9 text-center"
      :class="isOverDropZone ? 'border-accent bg-wash' : 'border-strong'"
    >
      <input
        ref="picker"
        type="file"
        accept=".csv,text/csv,text/plain"
        class="sr-only"
        tabindex="-1"
        aria-label="CSV file"
        @change="
          $event => {
            ;($event.target as HTMLInputElement).files?.[0] &&
              take(($event.target as HTMLInputElement).files![0]!)
            ;($event.target as HTMLInputElement).value = ''
          }
        "
      />
      <p class="text-[15px]">
        {{ file ? file.name : 'Drop a CSV file here' }} <template v-if="!file">or</template>
        {{ ' ' }}
        <button v-focus class="plain" :disabled="busy" @click="picker?.click()">
          {{ file ? 'choose another' : 'choose one' }}
        </button>
      </p>
      <p class="hint mt-2 max-w-[640px]">Columns, in any order: {{ columns.join(', ') }}</p>
    </div>
    <div v-if="busy && job" class="mt-4 flex items-center gap-4" role="status">
      <span class="w-[220px]"
        >{{ job.step || 'Waiting' }}
        {{ job.total ? `${job.done.toLocaleString()} of ${job.total.toLocaleString()}` : '' }}</span
      >
      <div class="h-1.5 flex-1 bg-wash">
        <i class="block h-full bg-accent" :style="{ width: `${percent}%` }" />
      </div>
      <button class="plain" @click="stop">Stop</button>
    </div>
    <p v-if="trouble" class="wrong mt-4" role="alert">{{ trouble }}</p>
    <template v-if="faults.length">
      <table class="grid-table mt-2 max-w-[900px]">
        <thead>
          <tr>
            <th class="!pl-0">Line</th>
            <th>Column</th>
            <th>What is wrong</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(f, n) in faults.slice(0, 300)" :key="n">
            <td class="!pl-0">{{ f.line }}</td>
            <td>{{ f.column }}</td>
            <td class="!whitespace-normal">{{ f.message }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="faults.length > 300" class="hint mt-2">and {{ faults.length - 300 }} more</p>
    </template>
    <template v-if="found && !busy">
      <div class="mt-5 flex flex-wrap items-baseline gap-5">
        <h2>
          Ready: {{ plural(found.imported, 'row') }} to import<template v-if="found.skipped"
            >, {{ found.skipped }} skipped</template
          >
        </h2>
        <button v-focus class="go" data-test="import" :disabled="!found.imported" @click="run(false)">
          Import {{ found.imported.toLocaleString() }} {{ kind }}
        </button>
      </div>
      <p v-for="t in found.totals" :key="t.currency" class="mt-1">
        {{ t.currency }}: debits {{ amountText(t.debit, t.currency) }}, credits
        {{ amountText(t.credit, t.currency) }}
      </p>
      <p v-if="found.unknownColumns.length" class="wrong mt-1">
        Not known and left aside: {{ found.unknownColumns.join(', ') }}
      </p>
      <div class="mt-3 overflow-x-auto">
        <table class="grid-table">
          <thead>
            <tr>
              <th v-for="c in Object.keys(found.sample[0] ?? {})" :key="c">{{ c }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(r, n) in found.sample" :key="n">
              <td v-for="c in Object.keys(found.sample[0]!)" :key="c">{{ r[c] }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="hint mt-2">The first {{ found.sample.length }} rows.</p>
    </template>
  </div>
</template>
