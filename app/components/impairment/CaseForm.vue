<script setup lang="ts">
import { computed, onMounted, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { CaseSuggestion } from '~~/contract/allowance'
import { CASE_KINDS, type CaseKind } from '~~/core/impairment/reasons'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** A customer, or one of its claims, that is judged by name; those that may have to be are offered. */
const emit = defineEmits<{ done: [name: string]; cancel: [] }>()
const session = useSession()
const suggestions = ref<CaseSuggestion[]>([])
const trouble = ref('')
const ask = reactive({
  customer: '',
  name: '',
  item: null as { id: number; number: string } | null,
  kind: 'insolvency' as CaseKind,
  rate: 50,
  text: '',
})
const isWhole = computed(() => ask.item === null)

onMounted(async () => {
  try {
    await fill(suggestions, async () => (await call(contract.allowance.cases)).suggestions)
  } catch (error) {
    trouble.value = problemText(error)
  }
})
function take(s: CaseSuggestion): void {
  Object.assign(ask, {
    customer: s.customer.number,
    name: s.customer.name,
    item: s.item,
    kind: s.kind,
    text: s.text,
  })
}
async function add(): Promise<void> {
  try {
    await call(contract.allowance.addCase, {
      body: {
        customer: ask.customer,
        itemId: ask.item?.id,
        kind: ask.kind,
        rate: Math.round(ask.rate * 100),
        text: ask.text,
      },
    })
    emit('done', ask.name)
  } catch (error) {
    trouble.value = problemText(error)
  }
}
</script>

<template>
  <form class="filters border-b border-rule !py-2" @submit.prevent="add" @keydown.esc="emit('cancel')">
    <template v-if="!ask.customer">
      <CustomerPicker
        @pick="
          (number, name) => {
            ask.customer = number
            ask.name = name
          }
        "
      />
      <span v-if="suggestions.length" class="text-soft">or</span>
      <button
        v-for="s in suggestions.slice(0, 4)"
        :key="s.customer.number + (s.item?.number ?? '')"
        type="button"
        class="plain"
        @click="take(s)"
      >
        {{ s.customer.name }}, {{ s.item ? s.item.number : CASE_KINDS[s.kind].toLowerCase() }},
        {{ amountText(s.open, session.base) }}
      </button>
    </template>
    <template v-else>
      <b class="font-semibold">{{ ask.name }}</b>
      <span class="text-soft">{{ isWhole ? 'all that it owes' : ask.item!.number }}</span>
      <select v-model="ask.kind" class="field" aria-label="Kind of case">
        <option v-for="(label, kind) in CASE_KINDS" :key="kind" :value="kind">{{ label }}</option>
      </select>
      <span
        ><input
          v-model.number="ask.rate"
          v-focus
          class="field w-[74px] text-right"
          type="number"
          min="0"
          max="100"
          step="0.01"
          aria-label="Of it is lost, per cent"
          required
        />
        % is lost</span
      >
      <input
        v-model="ask.text"
        class="field w-[260px]"
        aria-label="Why it is judged so"
        placeholder="because …"
        required
        maxlength="200"
      />
      <button class="plain">Judge it so</button>
    </template>
    <button type="button" class="plain" @click="emit('cancel')">Leave it</button>
    <span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span>
  </form>
</template>
