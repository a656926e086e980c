<script setup lang="ts">
import { computed, onMounted, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { FacilityRow } from '~~/contract/factoring'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, plural } from '~/utils/format'

/** Factors with their terms, and what lies with each. */
const props = defineProps<{ facilities: FacilityRow[] }>()
const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const may = computed(() => session.can('policy.edit'))
const { trouble, guard } = useGuard()
const chosen = ref<string | null>(null)

/** Rates in per cent, lists as text. */
const blank = () => ({
  code: '',
  name: '',
  iban: '',
  recourse: false,
  disclosed: true,
  currencies: session.base,
  advance: 80,
  commission: 1.5,
  floor: 0 as number | null,
  tax: 20,
  interest: 6,
  reference: '',
  yearDays: 360 as 360 | 365,
  limit: null as number | null,
  debtorLimit: null as number | null,
  concentration: '' as number | '',
  recourseDays: 90 as number | '',
  mostAge: '' as number | '',
  mostTerm: '' as number | '',
  countries: '',
  classes: '',
  least: 0 as number | null,
  accounts: { current: '1310', commission: '6911', interest: '6931', tax: '2210' },
  version: 0,
})
const form = reactive(blank())
const words = (text: string) => text.split(/[\s,;]+/).filter(Boolean)
const orNull = (value: number | '') => (value === '' ? null : value)
const points = (perCent: number) => Math.round(perCent * 100)

/** The form as it was shown or sent last: what is typed after that stays when the list is read again. */
let stood = ''
const typed = (): string => JSON.stringify({ ...form, version: 0 })

function show(f: FacilityRow | null): void {
  chosen.value = f?.code ?? ''
  Object.assign(form, blank())
  if (f) fill(f)
  stood = typed()
}
function fill(f: FacilityRow): void {
  const { eligible } = f
  Object.assign(form, {
    ...{ code: f.code, name: f.name, iban: f.iban, recourse: f.recourse, disclosed: f.disclosed },
    ...{
      currencies: f.currencies.join(', '),
      advance: f.advanceRate / 100,
      commission: f.commissionRate / 100,
    },
    ...{
      floor: f.commissionFloor,
      tax: f.taxRate / 100,
      interest: f.interestRate / 100,
      reference: f.interestReference ?? '',
      yearDays: f.yearDays,
    },
    ...{ limit: f.limit, debtorLimit: f.debtorLimit, recourseDays: f.recourseDays ?? '' },
    concentration: f.concentration === null ? '' : f.concentration / 100,
    ...{ mostAge: eligible.mostAge ?? '', mostTerm: eligible.mostTerm ?? '', least: eligible.least },
    ...{ countries: eligible.countries.join(', '), classes: eligible.classes.join(', ') },
    ...{ accounts: { ...f.accounts }, version: f.version },
  })
}
watch(
  () => props.facilities,
  list => {
    if (stood && typed() !== stood) return
    show(list.find(f => f.code === chosen.value) ?? list[0] ?? null)
  },
  { immediate: true },
)
/** Reference rates that the house keeps. */
const references = ref<string[]>([])
onMounted(async () => {
  try {
    const { items } = await call(contract.reminders.rates)
    references.value = [...new Set(items.map(r => r.code))].sort()
  } catch (error) {
    trouble.value = problemText(error)
  }
})
const overdraft = ref((session.settings?.factoringPolicy.overdraft ?? 0) / 100)
const keepOverdraft = () =>
  guard(async () => {
    session.settings = await call(contract.setup.changeSettings, {
      body: { factoringPolicy: { overdraft: points(Number(overdraft.value)) } },
    })
  }, 'The cost of waiting is saved.')
async function save(): Promise<void> {
  const sent = typed()
  await guard(async () => {
    const kept = await call(contract.factoring.keepFacility, {
      params: { code: form.code.trim().toUpperCase() },
      body: {
        ...{ name: form.name, iban: form.iban, recourse: form.recourse, disclosed: form.disclosed },
        currencies: words(form.currencies.toUpperCase()),
        ...{ advanceRate: points(form.advance), commissionRate: points(form.commission) },
        ...{
          commissionFloor: form.floor ?? 0,
          taxRate: points(form.tax),
          interestRate: points(form.interest),
          interestReference: form.reference || null,
        },
        ...{ yearDays: form.yearDays, limit: form.limit || null, debtorLimit: form.debtorLimit || null },
        concentration: form.concentration === '' ? null : points(form.concentration),
        recourseDays: orNull(form.recourseDays),
        eligible: {
          ...{ mostAge: orNull(form.mostAge), mostTerm: orNull(form.mostTerm), least: form.least ?? 0 },
          ...{ countries: words(form.countries.toUpperCase()), classes: words(form.classes) },
        },
        ...{ accounts: form.accounts, version: form.version },
      },
    })
    chosen.value = kept.code
    form.version = kept.version
    stood = sent
    emit('changed')
  }, 'Terms saved.')
}
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto px-[18px] py-2">
    <p class="flex flex-wrap gap-5">
      <button
        v-for="f in facilities"
        :key="f.code"
        class="plain"
        :class="f.code === chosen ? 'underline' : ''"
        @click="show(f)"
      >
        {{ f.name }}
      </button>
      <button v-if="may" class="plain" @click="show(null)">Another factor</button>
    </p>
    <p v-for="f in facilities.filter(x => x.code === chosen)" :key="f.code" class="py-1 text-soft">
      {{ amountText(f.used, session.base, true) }} of invoices lie with it;
      {{ f.balance >= 0 ? 'it owes us' : 'we owe it' }}
      {{ amountText(Math.abs(f.balance), session.base, true) }} by its account {{ f.accounts.current }}. An
      advance costs {{ f.yearlyRate === null ? '…' : (f.yearlyRate / 100).toFixed(2) }} % a year
      today<template v-if="f.interestReference && f.yearlyRate !== null"
        >: {{ ((f.yearlyRate - f.interestRate) / 100).toFixed(2) }} % by {{ f.interestReference }}, and
        {{ (f.interestRate / 100).toFixed(2) }} % on top</template
      ><template v-else-if="f.yearlyRate === null"
        >: no rate of {{ f.interestReference }} is in force, enter it under
        <NuxtLink class="makes" to="/setup/reminders">Setup</NuxtLink></template
      >.
    </p>
    <p
      v-for="m in facilities.find(x => x.code === chosen)?.months ?? []"
      :key="m.month + m.currency"
      class="text-soft"
    >
      {{ m.month }}: {{ plural(m.invoices, 'invoice') }} paid to it, it kept
      {{ amountText(m.kept, m.currency, true) }} for {{ amountText(m.advance, m.currency) }} of
      advances<template v-if="m.effective !== null">, {{ m.effective.toFixed(2) }} % a year</template>
    </p>
    <form class="setup-form" @submit.prevent="save">
      <label class="label" for="f-name">Name, code</label
      ><span class="flex gap-3"
        ><input
          id="f-name"
          v-model="form.name"
          class="field w-[260px]"
          required
          maxlength="80"
          :disabled="!may" /><input
          v-model="form.code"
          class="field w-[90px]"
          required
          maxlength="8"
          aria-label="Code"
          :disabled="!may || form.version > 0" /></span
      ><label class="label" for="f-iban">Pays from</label
      ><input id="f-iban" v-model="form.iban" class="field w-[300px]" maxlength="42" :disabled="!may" />
      <span class="label">Kind</span
      ><span class="flex flex-wrap gap-5"
        ><label class="inline-flex items-baseline gap-1.5"
          ><input v-model="form.recourse" type="checkbox" class="tick self-center" :disabled="!may" /> with
          recourse: the loss stays ours</label
        ><label class="inline-flex items-baseline gap-1.5"
          ><input v-model="form.disclosed" type="checkbox" class="tick self-center" :disabled="!may" /> the
          debtor is told</label
        ></span
      ><label class="label" for="f-currencies">Currencies</label
      ><input id="f-currencies" v-model="form.currencies" class="field w-[200px]" required :disabled="!may" />
      <label class="label" for="f-advance">Advance</label
      ><span class="flex items-baseline gap-2"
        ><PercentField id="f-advance" v-model="form.advance" :disabled="!may" /> %, the rest is its
        reserve</span
      ><label class="label" for="f-commission">Commission</label
      ><span class="flex flex-wrap items-baseline gap-2"
        ><PercentField id="f-commission" v-model="form.commission" :disabled="!may" />
        %, at least
        <MoneyField
          v-model="form.floor"
          class="w-[100px]"
          :currency="session.base"
          label="At least"
          :disabled="!may"
        />
        an invoice, with
        <PercentField v-model="form.tax" label="Tax on it" :disabled="!may" />
        % of tax</span
      ><label class="label" for="f-interest">Interest</label
      ><span class="flex items-baseline gap-2"
        ><PercentField id="f-interest" v-model="form.interest" :disabled="!may" />
        % a year,
        <select v-model="form.reference" class="field" aria-label="On top of" :disabled="!may">
          <option value="">in all</option>
          <option v-for="code in references" :key="code" :value="code">on top of {{ code }}</option>
        </select>
        of
        <select v-model.number="form.yearDays" class="field" aria-label="Days of the year" :disabled="!may">
          <option :value="360">360 days</option>
          <option :value="365">365 days</option>
        </select></span
      ><span class="label">Limits, {{ session.base }}</span
      ><span class="flex flex-wrap items-baseline gap-2"
        >in all
        <MoneyField
          v-model="form.limit"
          class="w-[130px]"
          :currency="session.base"
          label="Limit in all"
          :disabled="!may"
        />
        a debtor
        <MoneyField
          v-model="form.debtorLimit"
          class="w-[130px]"
          :currency="session.base"
          label="Limit of a debtor"
          :disabled="!may"
        />
        or
        <PercentField v-model="form.concentration" label="Share of one debtor" :disabled="!may" />
        % of all</span
      ><span class="label">It buys</span
      ><span class="flex flex-wrap items-baseline gap-2"
        >not older than
        <input
          v-model.number="form.mostAge"
          type="number"
          min="1"
          class="field w-20"
          aria-label="Most days old"
          :disabled="!may" />
        days, terms up to
        <input
          v-model.number="form.mostTerm"
          type="number"
          min="1"
          class="field w-20"
          aria-label="Longest terms"
          :disabled="!may" />
        days, from
        <MoneyField
          v-model="form.least"
          class="w-[100px]"
          :currency="session.base"
          label="From"
          :disabled="!may" /></span
      ><span class="label" />
      <span class="flex flex-wrap items-baseline gap-2"
        >countries
        <input
          v-model="form.countries"
          class="field w-[160px]"
          placeholder="all"
          aria-label="Countries"
          :disabled="!may"
        />
        classes
        <input
          v-model="form.classes"
          class="field w-[160px]"
          placeholder="all"
          aria-label="Classes"
          :disabled="!may"
        />
        back after
        <input
          v-model.number="form.recourseDays"
          type="number"
          min="1"
          class="field w-20"
          placeholder="never"
          aria-label="Comes back after"
          :disabled="!may"
        />
        days late</span
      ><span class="label">Its accounts</span
      ><span class="flex flex-wrap items-baseline gap-2"
        ><template
          v-for="(label, what) in {
            current: 'owes',
            commission: 'commission',
            interest: 'interest',
            tax: 'tax',
          }"
          :key="what"
          >{{ label }}
          <input
            v-model="form.accounts[what]"
            class="field w-20"
            :aria-label="`Account for ${label}`"
            :disabled="!may || (what === 'current' && form.version > 0)" /></template></span
      ><span /><button v-if="may" class="go justify-self-start">Save</button>
    </form>
    <form class="setup-form mt-3 border-t border-rule pt-2" @submit.prevent="keepOverdraft">
      <label class="label" for="f-overdraft">Beside it</label
      ><span class="flex items-baseline gap-2"
        >the overdraft asks
        <PercentField id="f-overdraft" v-model="overdraft" :disabled="!may" />
        % a year
        <button v-if="may" class="plain">Save the rate</button></span
      >
    </form>
    <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
  </div>
</template>
