<script setup lang="ts">
import { computed } from 'vue'
import { plural } from '~/utils/format'

/** What the ticks become: a lump for each customer, or a receipt for each item. */
interface Part {
  customer: string
  allocations: readonly { itemId: number; amount: number }[]
}
const props = defineProps<{
  parts: readonly Part[]
  mode: 'customer' | 'item'
  currency: string
  names: ReadonlyMap<string, string>
  numberOf: (itemId: number) => string
}>()
const single = computed(() => props.parts.flatMap(p => p.allocations))
</script>

<template>
  <div class="grid grid-cols-2 gap-x-5 text-[12px]">
    <div :class="mode === 'customer' ? '' : 'text-faint'">
      <p class="font-semibold">{{ plural(parts.length, 'receipt') }}, a lump per customer</p>
      <p v-for="p in parts.slice(0, 4)" :key="p.customer" class="flex justify-between gap-3">
        <span class="truncate">{{ names.get(p.customer) }}</span><Figure
          :amount="p.allocations.reduce((a, x) => a + x.amount, 0)"
          :currency="currency"
        />
      </p>
      <p v-if="parts.length > 4" class="hint">and {{ parts.length - 4 }} more</p>
    </div>
    <div :class="mode === 'item' ? '' : 'text-faint'">
      <p class="font-semibold">
        or
        {{
          plural(
            parts.reduce((a, p) => a + p.allocations.length, 0),
            'receipt',
          )
        }}, one per item
      </p>
      <p v-for="a in single.slice(0, 4)" :key="a.itemId" class="flex justify-between gap-3">
        <span class="whitespace-nowrap">{{ numberOf(a.itemId) }}</span><Figure
          :amount="a.amount"
          :currency="currency"
        />
      </p>
      <p v-if="single.length > 4" class="hint">and {{ single.length - 4 }} more</p>
    </div>
  </div>
</template>
