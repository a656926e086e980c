<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { FacilityRow } from '~~/contract/factoring'
import type { PlannedRow } from '~~/contract/forecast'
import { useKeys } from '~/composables/keys'
import type { Change } from '~/composables/whatIf'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { plural } from '~/utils/format'

/**
 * What might be otherwise, one thing after another: the effect of all is drawn beside the forecast, and
 * nothing is posted. What is worth it is kept by a name.
 */
const props = defineProps<{ changes: readonly Change[]; effect: string; busy: boolean }>()
const emit = defineEmits<{
  add: [change: Change]
  remove: [place: number]
  clear: []
  keep: [name: string]
}>()
const session = useSession()
const KINDS = {
  late: 'a customer pays later by',
  never: 'a customer does not pay',
  discount: 'a customer gets a discount of',
  hold: 'a payment is held for',
  sell: 'invoices go to a factor',
  rate: 'a currency moves by',
  campaign: 'all who are overdue are reminded now',
  stopHeld: 'nothing more is shipped to held accounts',
} as const
type Kind = keyof typeof KINDS
const ABOUT_CUSTOMER: readonly Kind[] = ['late', 'never', 'discount']
const planned = ref<PlannedRow[]>([])
const factors = ref<FacilityRow[]>([])
const form = reactive({
  kind: 'late' as Kind,
  customer: '',
  name: '',
  paymentId: 0,
  days: 30,
  discount: 2 as number | '',
  factor: '',
  currency: '',
  perCent: -10,
})
const asking = ref(false)
const naming = ref(false)
const kept = ref('')
const trouble = ref('')
const needsCustomer = computed(() => ABOUT_CUSTOMER.includes(form.kind))
const foreign = computed(() => (session.settings?.currencies ?? []).filter(c => c !== session.base))
const canAsk = computed(() => {
  if (needsCustomer.value) return form.customer !== ''
  if (form.kind === 'hold') return form.paymentId > 0
  if (form.kind === 'sell') return form.factor !== ''
  return form.kind !== 'rate' || form.currency !== ''
})
/** Who is given a discount pays within so many days less (terms 2/10 net 30; ours). */
const SOONER = -20

async function begin(): Promise<void> {
  asking.value = true
  naming.value = false
  try {
    const [plan, facilities] = await Promise.all([
      call(contract.forecast.planned),
      call(contract.factoring.facilities),
    ])
    planned.value = plan.items
    factors.value = facilities.items
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  }
}
/** All that the factor would buy now, by its terms. */
async function sold(): Promise<Change> {
  const factor = factors.value.find(f => f.code === form.factor)!
  const { chosen } = await call(contract.factoring.proposal, {
    query: { facility: factor.code, currency: factor.currencies[0]!, limit: 2000 },
  })
  if (!chosen.length) throw new Error(`${factor.name} buys nothing now: see Factoring for the reasons`)
  return {
    words: `${plural(chosen.length, 'invoice')} go to ${factor.name}`,
    body: { sell: { facility: factor.code, itemIds: chosen.map(i => i.itemId) } },
  }
}
const CHANGES: Record<Kind, () => Change | Promise<Change>> = {
  late: () => ({
    words: `${form.name} pays ${form.days} days later`,
    body: { customers: [{ customer: form.customer, days: form.days }] },
  }),
  never: () => ({
    words: `${form.name} does not pay`,
    body: { customers: [{ customer: form.customer, never: true }] },
  }),
  discount: () => ({
    words: `${form.name} takes ${form.discount} % for paying ${-SOONER} days sooner`,
    body: {
      customers: [
        { customer: form.customer, discount: Math.round(Number(form.discount) * 100), days: SOONER },
      ],
    },
  }),
  hold: () => ({
    words: `${planned.value.find(p => p.id === form.paymentId)?.name} is held for ${form.days} days`,
    body: { payments: [{ id: form.paymentId, days: form.days }] },
  }),
  sell: sold,
  rate: () => ({
    words: `${form.currency} is worth ${Math.abs(form.perCent)} % ${form.perCent < 0 ? 'less' : 'more'}`,
    body: { rates: [{ currency: form.currency, perCent: form.perCent }] },
  }),
  campaign: () => ({ words: 'all who are overdue are reminded now', body: { campaign: true } }),
  stopHeld: () => ({ words: 'nothing more is shipped to held accounts', body: { stopHeld: true } }),
}
async function ask(): Promise<void> {
  if (!canAsk.value || props.busy) return
  try {
    emit('add', await CHANGES[form.kind]())
    asking.value = false
    form.customer = ''
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  }
}
function keep(): void {
  emit('keep', kept.value)
  naming.value = false
  kept.value = ''
}
const mayKeep = computed(() => session.can('forecast.plan') && props.changes.length > 0)
useKeys([
  { key: 'w', label: 'What if', run: () => void begin() },
  { key: 'k', label: 'Keep the what-if', when: () => mayKeep.value, run: () => (naming.value = true) },
])
</script>

<template>
  <div class="filters" data-test="what-if">
    <form v-if="asking" class="contents" @submit.prevent="ask" @keydown.esc="asking = false">
      <b class="font-semibold">What if</b>
      <template v-if="needsCustomer"
        ><span v-if="form.customer" class="name"
          >{{ form.name }}
          <button type="button" class="hint" aria-label="Another customer" @click="form.customer = ''">
            ✕
          </button></span
        ><CustomerPicker
          v-else
          @pick="
            (number, name) => {
              form.customer = number
              form.name = name
            }
          "
      /></template>
      <select v-model="form.kind" class="field" aria-label="What happens">
        <option v-for="(label, kind) in KINDS" :key="kind" :value="kind">{{ label }}</option>
      </select>
      <select
        v-if="form.kind === 'hold'"
        v-model.number="form.paymentId"
        class="field"
        aria-label="Planned payment"
      >
        <option :value="0">which payment</option>
        <option v-for="p in planned" :key="p.id" :value="p.id">{{ p.name }}</option>
      </select>
      <select v-else-if="form.kind === 'sell'" v-model="form.factor" class="field" aria-label="Factor">
        <option value="">which factor</option>
        <option v-for="f in factors" :key="f.code" :value="f.code">{{ f.name }}</option>
      </select>
      <span v-else-if="form.kind === 'rate'" class="flex items-baseline gap-2"
        ><select v-model="form.currency" class="field" aria-label="Which currency">
          <option value="">which</option>
          <option v-for="c in foreign" :key="c" :value="c">{{ c }}</option></select
        ><input
          v-model.number="form.perCent"
          type="number"
          min="-90"
          max="500"
          class="field w-20"
          aria-label="Per cent"
          required
        />
        %</span
      >
      <span v-if="form.kind === 'late' || form.kind === 'hold'"
        ><input
          v-model.number="form.days"
          type="number"
          min="1"
          max="365"
          class="field w-20"
          aria-label="Days"
          required
        />
        days</span
      ><span v-else-if="form.kind === 'discount'"
        ><PercentField v-model="form.discount" label="Discount" /> % for paying sooner</span
      >
      <button class="plain" :disabled="!canAsk || busy">Show it</button>
      <button type="button" class="hint" @click="asking = false">Cancel</button>
      <span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span>
    </form>
    <form v-else-if="naming" class="contents" @submit.prevent="keep" @keydown.esc="naming = false">
      <label class="label" for="what-if-name">Keep it as</label>
      <input id="what-if-name" v-model="kept" v-focus class="field w-[260px]" required maxlength="80" />
      <button class="plain">Keep it</button>
      <button type="button" class="hint" @click="naming = false">Cancel</button>
    </form>
    <template v-else>
      <span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span>
      <button class="plain" @click="begin">
        {{ changes.length ? 'And if …' : 'What if …' }} <kbd>W</kbd>
      </button>
      <span v-for="(change, n) in changes" :key="n"
        ><b class="font-semibold">{{ change.words }}</b>
        <button
          class="hint min-h-6 min-w-6"
          :aria-label="`Without: ${change.words}`"
          @click="emit('remove', n)"
        >
          ✕
        </button></span
      >
      <template v-if="changes.length"
        ><span data-test="effect">{{ effect }}</span
        ><button v-if="mayKeep" class="plain" @click="naming = true">Keep it <kbd>K</kbd></button>
        <button class="plain" @click="emit('clear')">As it is</button></template
      >
    </template>
  </div>
</template>
