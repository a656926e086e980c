<script setup lang="ts">
import type { TodayAnswer } from '~~/contract/today'
import { proseText } from '~/utils/format'

/** Lines of the first screen: what it is, why it matters, how much; each is a way in. */
defineProps<{ lines: TodayAnswer['todo']; base: string }>()
</script>

<template>
  <div>
    <NuxtLink
      v-for="t in lines"
      :key="t.kind + t.label"
      :to="t.to"
      class="flex items-baseline justify-between gap-3 border-t border-rule py-1 hover:bg-row"
      ><span class="min-w-0"
        ><span class="font-semibold text-accent">{{ t.label }}</span
        ><br /><span class="aside">{{ proseText(t.why) }}</span></span
      ><Figure v-if="t.amount !== null" :amount="t.amount" :currency="base" whole
    /></NuxtLink>
  </div>
</template>
