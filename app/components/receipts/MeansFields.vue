<script setup lang="ts">
import { MEANS } from '~~/contract/receipts'

/** How the money came: one row for each payment means. */
export interface MeansRow {
  means: (typeof MEANS)[number]
  amount: number | null
  reference: string
}
defineProps<{ currency: string }>()
const emit = defineEmits<{ typed: []; add: [] }>()
const rows = defineModel<MeansRow[]>({ required: true })
</script>

<template>
  <div class="flex flex-col gap-1.5">
    <div v-for="(m, n) in rows" :key="n" class="flex items-baseline gap-4">
      <span class="flex items-baseline gap-1.5"
        ><label class="label" :for="`amount-${n}`">Amount</label
        ><MoneyField
          :id="`amount-${n}`"
          v-model="m.amount"
          v-focus
          :currency="currency"
          label="Amount received"
          @input="emit('typed')"
        /><span class="aside">{{ currency }}</span></span
      >
      <span class="flex items-baseline gap-1.5"
        ><label class="label" :for="`means-${n}`">by</label
        ><select :id="`means-${n}`" v-model="m.means" class="field">
          <option v-for="k in MEANS" :key="k" :value="k">{{ k }}</option>
        </select></span
      >
      <span class="flex items-baseline gap-1.5"
        ><label class="label" :for="`reference-${n}`">{{
          m.means === 'cheque' ? 'Number' : 'Reference'
        }}</label
        ><input
          :id="`reference-${n}`"
          v-model="m.reference"
          class="field w-[150px]"
          maxlength="80"
          autocomplete="off"
      /></span>
      <button
        v-if="rows.length > 1"
        class="hint"
        :aria-label="`Remove payment means ${n + 1}`"
        @click="rows.splice(n, 1)"
      >
        remove
      </button>
      <button v-if="n === rows.length - 1" class="plain !py-0" @click="emit('add')">and <kbd>W</kbd></button>
    </div>
  </div>
</template>
