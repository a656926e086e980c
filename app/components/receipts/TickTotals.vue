<script setup lang="ts">
import { computed } from 'vue'
import { amountText, plural } from '~/utils/format'

/** What is ticked so far beside what the advice says. */
const props = defineProps<{ running: number; items: number; customers: number; currency: string }>()
const expected = defineModel<number | null>('expected', { required: true })
const apart = computed(() => (expected.value === null ? null : expected.value - props.running))
</script>

<template>
  <p class="flex items-baseline gap-5" aria-live="polite">
    <span
      ><span class="label">This receipt </span
      ><b class="font-serif text-[19px] font-medium" data-test="running"
        ><Figure :amount="running" :currency="currency" zero
      /></b>
      {{ ' ' }}
      <span class="aside"
        >{{ plural(items, 'item')
        }}<template v-if="customers > 1"> of {{ customers }} customers</template></span
      ></span
    >
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="expected">expected</label
      ><MoneyField
        id="expected"
        v-model="expected"
        :currency="currency"
        label="Expected total"
        placeholder="the advice"
    /></span>
    <b
      v-if="apart !== null"
      class="font-semibold"
      :class="apart === 0 ? 'text-accent' : ''"
      data-test="apart"
      >{{
        apart === 0
          ? 'agrees'
          : apart > 0
            ? `${amountText(apart, currency)} to go`
            : `${amountText(-apart, currency)} too much`
      }}</b
    >
  </p>
</template>
