<script setup lang="ts">
import { useDropZone } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useImportTable } from '~/composables/documents/importTable'
import { useDesk } from '~/stores/desk'
import { amountText, plural } from '~/utils/format'
import { saveText } from '~/utils/save'

definePageMeta({ noCard: true })
const desk = useDesk()
const table = useImportTable()
const { file, look, map, converted, checked, faults, trouble, busy, existing, opening, job, missing } = table
const zone = ref<HTMLElement | null>(null)
const picker = ref<HTMLInputElement | null>(null)
const { isOverDropZone } = useDropZone(zone, {
  onDrop: files => {
    if (files?.[0]) void table.take(files[0])
  },
})

/** A file to start from, for each kind; its rows are made up. */
const EXAMPLES = {
  customers:
    'number,name,street,postcode,city,country,currency,terms,email\r\n' +
    'K-1001,Quillhaven Stores,4 Ferry Lane,D02 X1,Dublin,IE,EUR,net 30,accounts@quillhaven.example\r\n' +
    'K-1002,Tannrode Feinkost,Am Markt 7,99441,Tannrode,DE,EUR,"2% 10, net 30",buero@tannrode.example\r\n',
  documents:
    'number,kind,customer,date,due_date,currency,amount,tax,order,text\r\n' +
    '26-1001,invoice,K-1001,2026-10-01,2026-10-31,EUR,1210.40,226.33,PO-7,dulse\r\n' +
    '26-1002,credit-note,K-1001,2026-10-05,,EUR,110.40,,,short delivery\r\n',
  orders:
    'number,customer,date,currency,amount,delivered,invoiced,state\r\n' +
    'O-501,K-1001,2026-11-02,EUR,4800.00,1200.00,0.00,open\r\n' +
    'O-502,K-1002,2026-11-04,EUR,950.00,950.00,950.00,closed\r\n',
}
/** One of each kind, and where they are looked at. */
const ONE = { customers: 'customer', documents: 'document', orders: 'order' }
const WHERE = { customers: '/accounts', documents: '/aging', orders: '/exposure' }

async function takeIn(): Promise<void> {
  const kind = map.value!.kind
  const done = await table.takeIn()
  if (!done) return
  const what = ONE[kind]
  const changed = done.updated ? `, ${plural(done.updated, what)} changed` : ''
  desk.say({
    text: `${plural(done.imported, what)} imported${changed}.`,
    to: WHERE[kind],
    action: 'Look at them',
  })
}
const percent = computed(() => (job.value?.total ? Math.round((100 * job.value.done) / job.value.total) : 0))
const ready = computed(() => (checked.value ? checked.value.imported + checked.value.updated : 0))
const goText = computed(() => {
  const { imported, updated } = checked.value!
  return imported || !updated
    ? `Import ${imported.toLocaleString()} ${map.value!.kind}${updated ? `, change ${updated.toLocaleString()}` : ''}`
    : `Change ${updated.toLocaleString()} ${map.value!.kind}`
})
</script>

<template>
  <div class="sheet-head">
    <h1>Import</h1>
    <span class="hint"
      >Any CSV or workbook: you say what its columns are. One bad row, and nothing is imported.</span
    >
  </div>
  <div class="min-h-0 flex-1 overflow-auto px-[18px] pb-8">
    <div
      ref="zone"
      class="grid place-items-center border border-dashed px-6 text-center"
      :class="[isOverDropZone ? 'border-accent bg-wash' : 'border-strong', look ? 'py-3' : 'py-9']"
    >
      <input
        ref="picker"
        type="file"
        accept=".csv,.txt,.tsv,.xlsx,text/csv,text/plain"
        class="sr-only"
        tabindex="-1"
        aria-label="Table to import"
        @change="
          $event => {
            ;($event.target as HTMLInputElement).files?.[0] &&
              table.take(($event.target as HTMLInputElement).files![0]!)
            ;($event.target as HTMLInputElement).value = ''
          }
        "
      />
      <p class="text-[15px]">
        {{ file ? file.name : 'Drop a CSV file or a workbook here' }} <template v-if="!file">or</template>
        {{ ' ' }}
        <button v-focus class="plain" :disabled="busy" @click="picker?.click()">
          {{ file ? 'choose another' : 'choose one' }}
        </button>
      </p>
      <p v-if="!look" class="hint mt-2">
        Nothing to start from? An example of
        <button class="plain" @click="saveText('customers.csv', EXAMPLES.customers)">customers</button>, of
        <button class="plain" @click="saveText('documents.csv', EXAMPLES.documents)">open documents</button>
        or of
        <button class="plain" @click="saveText('orders.csv', EXAMPLES.orders)">orders</button>
      </p>
    </div>
    <template v-if="look && map">
      <div class="mt-4 mb-2 flex flex-wrap items-baseline gap-x-5 gap-y-2">
        <span v-if="map.kind === 'orders'" class="hint">orders that are there already are changed</span>
        <span v-else
          ><label class="label" for="existing">Numbers that are there already </label
          ><select id="existing" v-model="existing" class="field" :disabled="busy" @change="table.check()">
            <option value="refuse">are a fault</option>
            <option value="skip">are left as they are</option>
            <option v-if="map.kind === 'customers'" value="update">are changed as the file says</option>
          </select></span
        >
        <label v-if="map.kind === 'documents'" class="label flex items-center gap-1.5"
          ><input v-model="opening" type="checkbox" class="tick" :disabled="busy" @change="table.check()" />
          They were open before these books began: post against opening balances</label
        >
      </div>
      <ImportMapping
        v-model="map"
        :look="look"
        :missing="missing"
        :faults="faults"
        :lines="converted?.lines ?? []"
        :disabled="busy"
        @changed="table.check()"
        @kind="table.see($event)"
      />
    </template>
    <p v-if="busy && !job" class="mt-4 text-soft" role="status">Looking at the file…</p>
    <div v-if="busy && job" class="mt-4 flex items-center gap-4" role="status">
      <span class="w-[220px]"
        >{{ job.step || 'Waiting' }}
        {{ job.total ? `${job.done.toLocaleString()} of ${job.total.toLocaleString()}` : '' }}</span
      >
      <div class="h-1.5 flex-1 bg-wash">
        <i class="block h-full bg-accent" :style="{ width: `${percent}%` }" />
      </div>
      <button class="plain" @click="table.stop">Stop</button>
    </div>
    <div v-if="trouble" class="mt-4 flex flex-wrap items-baseline gap-5">
      <p class="wrong" role="alert">{{ trouble }}</p>
      <button
        v-if="faults.some(f => f.line) && converted"
        class="plain"
        @click="saveText('to-repair.csv', table.repairFile())"
      >
        Save the faulty rows to repair them
      </button>
    </div>
    <template v-if="faults.some(f => f.line)">
      <table class="grid-table mt-2 max-w-[900px]" data-test="faults">
        <thead>
          <tr>
            <th class="!pl-0">Line</th>
            <th>Column</th>
            <th>What is wrong</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(f, n) in faults.slice(0, 300)" :key="n">
            <td class="!pl-0">{{ table.lineOf(f) }}</td>
            <td>{{ f.column }}</td>
            <td class="!whitespace-normal">{{ f.message }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="faults.length > 300" class="hint mt-2">and {{ faults.length - 300 }} more</p>
    </template>
    <template v-if="checked && !busy">
      <div class="mt-5 flex flex-wrap items-baseline gap-5">
        <h2>
          Ready: {{ plural(checked.imported, 'row') }} to import<template v-if="checked.updated"
            >, {{ plural(checked.updated, 'record') }} to change</template
          ><template v-if="checked.skipped">, {{ checked.skipped }} skipped</template
          ><template v-if="converted?.leftOut"
            >, {{ plural(converted.leftOut, 'row') }} over nothing or of sums left out</template
          >
        </h2>
        <button v-focus class="go" data-test="import" :disabled="!ready" @click="takeIn">{{ goText }}</button>
      </div>
      <p v-for="t in checked.totals" :key="t.currency" class="mt-1">
        {{ t.currency }}: debits {{ amountText(t.debit, t.currency) }}, credits
        {{ amountText(t.credit, t.currency) }}
      </p>
      <p v-if="checked.unknownColumns.length" class="wrong mt-1">
        Not known and left aside: {{ checked.unknownColumns.join(', ') }}
      </p>
      <table v-if="checked.changes.length" class="grid-table mt-3 max-w-[900px]">
        <caption class="sr-only">
          What changes
        </caption>
        <thead>
          <tr>
            <th class="!pl-0">Customer</th>
            <th>Field</th>
            <th>Is</th>
            <th>Becomes</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(c, n) in checked.changes" :key="n">
            <td class="!pl-0">{{ c.number }}</td>
            <td>{{ c.field.replace(/_/g, ' ') }}</td>
            <td class="text-soft">{{ c.before || 'nothing' }}</td>
            <td>{{ c.after }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>
