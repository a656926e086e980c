<script setup lang="ts">
import { computed, onMounted, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { PlannedRow } from '~~/contract/forecast'
import { EVERY, PLANNED_KINDS } from '~~/core/forecast'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { dateText, plural } from '~/utils/format'
import { fill } from '~/utils/fill'

/** Payments out that are planned, once or by a rule: entered here, or from a CSV file. */
const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const may = computed(() => session.can('forecast.plan'))
const rows = ref<PlannedRow[]>([])
const loading = ref(false)
const trouble = ref('')
const current = ref<PlannedRow | null>(null)
const editing = ref(false)
const picker = ref<HTMLInputElement | null>(null)
const { trouble: refused, guard } = useGuard()
const blank = () => ({
  id: 0,
  name: '',
  kind: 'supplier' as PlannedRow['kind'],
  currency: session.base,
  amount: null as number | null,
  from: session.today,
  until: '',
  every: 'once' as PlannedRow['every'],
  intoCurrency: '',
  intoAmount: null as number | null,
})
const form = reactive(blank())
const currencies = computed(() => [...new Set([session.base, ...(session.settings?.currencies ?? [])])])

async function load(): Promise<void> {
  loading.value = true
  try {
    await fill(rows, async () => (await call(contract.forecast.planned)).items)
    if (!rows.value.length) current.value = null
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    loading.value = false
  }
}
onMounted(load)
const shownOf = ({ until, into, ...row }: PlannedRow) => ({
  ...row,
  ...{ until: until ?? '', intoCurrency: into?.currency ?? '', intoAmount: into?.amount ?? null },
})
function edit(row: PlannedRow | null): void {
  if (!may.value) return
  Object.assign(form, blank(), row ? shownOf(row) : {})
  editing.value = true
}
async function save(): Promise<void> {
  const body = {
    ...{ name: form.name, kind: form.kind, currency: form.currency, amount: form.amount ?? 0 },
    ...{ from: form.from, until: form.until || null, every: form.every },
    into: form.kind === 'transfer' ? { currency: form.intoCurrency, amount: form.intoAmount ?? 0 } : null,
  }
  await guard(async () => {
    await (form.id
      ? call(contract.forecast.change, { params: { id: form.id }, body })
      : call(contract.forecast.plan, { body }))
    await load()
    emit('changed')
  }, `${form.name} is planned.`)
  if (!refused.value) editing.value = false
}
async function end(row: PlannedRow): Promise<void> {
  await guard(async () => {
    await call(contract.forecast.end, { params: { id: row.id } })
    await load()
    emit('changed')
  }, `${row.name} is planned no more.`)
}
const policy = reactive({
  floor: (session.settings?.forecastPolicy.floor ?? 0) as number | null,
  alert: session.settings?.forecastPolicy.alert ?? 20,
})
async function saveFloor(): Promise<void> {
  await guard(async () => {
    session.settings = await call(contract.setup.changeSettings, {
      body: { forecastPolicy: { floor: policy.floor ?? 0, alert: Number(policy.alert) } },
    })
    emit('changed')
  }, 'The floor is saved.')
}
async function takeFile(file: File): Promise<void> {
  const csv = await file.text()
  await guard(async () => {
    const { added } = await call(contract.forecast.importPlanned, { body: { csv } })
    await load()
    emit('changed')
    trouble.value = ''
    return added
  }, `${file.name} is taken in.`)
}
useKeys([
  { key: 'a', label: 'Plan a payment', when: () => may.value, run: () => edit(null) },
  { key: 'o', label: 'From a CSV file', when: () => may.value, run: () => picker.value?.click() },
  {
    key: 'x',
    label: 'Take it out of the plan',
    when: () => may.value && current.value !== null,
    run: () => void end(current.value!),
  },
])
</script>

<template>
  <div class="filters">
    <button v-if="may" class="plain" @click="edit(null)">Plan a payment <kbd>A</kbd></button>
    <button v-if="may" class="plain" @click="picker?.click()">A CSV file <kbd>O</kbd></button>
    <input
      ref="picker"
      type="file"
      accept=".csv,.txt"
      class="sr-only"
      tabindex="-1"
      aria-label="File of planned payments"
      @change="
        $event => {
          const input = $event.target as HTMLInputElement
          if (input.files?.[0]) takeFile(input.files[0])
          input.value = ''
        }
      "
    />
    <form
      v-if="session.can('policy.edit')"
      class="ml-auto flex items-baseline gap-2"
      @submit.prevent="saveFloor"
    >
      <span class="label">Floor</span
      ><MoneyField
        v-model="policy.floor"
        class="w-[120px]"
        :currency="session.base"
        label="Floor of the bank balance"
      /><span class="label">told from</span
      ><input
        v-model.number="policy.alert"
        type="number"
        min="1"
        max="100"
        class="field w-16"
        aria-label="Told from"
        required
      />%
      <button class="plain">Save the floor</button>
    </form>
    <span class="hint">columns name, date, amount; kind, currency, every and until if you like</span>
  </div>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <form v-if="editing" class="filters" @submit.prevent="save" @keydown.esc="editing = false">
    <input
      v-model="form.name"
      v-focus
      class="field w-[200px]"
      placeholder="What for"
      aria-label="What for"
      required
      maxlength="80"
    />
    <select v-model="form.kind" class="field" aria-label="Kind">
      <option v-for="(label, kind) in PLANNED_KINDS" :key="kind" :value="kind">{{ label }}</option>
    </select>
    <MoneyField v-model="form.amount" class="w-[120px]" :currency="form.currency" label="Amount" />
    <select v-model="form.currency" class="field" aria-label="Currency">
      <option v-for="c in currencies" :key="c" :value="c">{{ c }}</option>
    </select>
    <span v-if="form.kind === 'transfer'" class="flex items-baseline gap-1.5"
      >arrives as
      <MoneyField
        v-model="form.intoAmount"
        class="w-[120px]"
        :currency="form.intoCurrency || form.currency"
        label="What arrives"
      />
      <select v-model="form.intoCurrency" class="field" aria-label="Currency that arrives" required>
        <option value="">which</option>
        <option v-for="c in currencies.filter(x => x !== form.currency)" :key="c" :value="c">{{ c }}</option>
      </select></span
    >
    <select v-model="form.every" class="field" aria-label="How often">
      <option v-for="(label, every) in EVERY" :key="every" :value="every">{{ label }}</option>
    </select>
    <DateField v-model="form.from" label="On, or from" :today="session.today" />
    <span v-if="form.every !== 'once'" class="flex items-baseline gap-1.5"
      >until <DateField v-model="form.until" label="Until" :today="session.today"
    /></span>
    <button class="plain">{{ form.id ? 'Change it' : 'Plan it' }}</button>
    <button type="button" class="hint" @click="editing = false">Cancel</button>
  </form>
  <SheetTable
    :columns="[
      { key: 'next', label: 'Next', width: 104 },
      { key: 'name', label: 'What for', cut: true },
      { key: 'kind', label: 'Kind', width: 130 },
      { key: 'every', label: 'How often', width: 190 },
      { key: 'by', label: 'Planned by', cut: true, width: 150, gives: 1 },
      { key: 'amount', label: 'Amount', num: true, width: 140 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="false"
    :loading="loading"
    label="Planned payments"
    @cursor="r => (current = r)"
    @open="edit"
  >
    <template #cell-next="{ row }">{{ row.next ? dateText(row.next) : 'over' }}</template>
    <template #cell-name="{ row }"
      ><span class="name">{{ row.name }}</span></template
    >
    <template #cell-kind="{ row }"
      >{{ PLANNED_KINDS[row.kind]
      }}<span v-if="row.into" class="aside ml-1">into {{ row.into.currency }}</span></template
    >
    <template #cell-every="{ row }"
      >{{ EVERY[row.every] }}{{ row.until ? `, until ${dateText(row.until)}` : '' }}</template
    >
    <template #cell-by="{ row }">{{ row.by }}</template>
    <template #cell-amount="{ row }"
      ><Figure :amount="row.amount" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #foot
      ><tr>
        <td colspan="6">
          {{ plural(rows.length, 'planned payment') }}
          <span v-if="may && current" class="ml-4"
            ><button class="plain !py-0" @click="edit(current)">Change {{ current.name }}</button>
            <button class="plain !py-0 ml-3" @click="end(current)">Take it out <kbd>X</kbd></button></span
          >
        </td>
      </tr></template
    >
    <template #empty>Nothing is planned: wages, rent, tax and suppliers belong here.</template>
  </SheetTable>
</template>
