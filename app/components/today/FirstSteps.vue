<script setup lang="ts">
import { ref } from 'vue'
import type { z } from 'zod'
import { contract } from '~~/contract'
import { useGuard } from '~/composables/guard'
import { call } from '~/utils/api'
import { fill } from '~/utils/fill'

/** A new house, step by step; gone when all is done. */
type Steps = z.output<NonNullable<typeof contract.setup.firstSteps.response>>
const { trouble, complain } = useGuard()
const steps = ref<Steps | null>(null)
void fill(steps, () => call(contract.setup.firstSteps)).catch(complain)
</script>

<template>
  <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
  <section v-else-if="steps && !steps.done" class="border-b border-rule pb-4" data-test="first-steps">
    <h2 class="mb-1">First steps</h2>
    <ol class="max-w-[760px]">
      <li
        v-for="(s, n) in steps.steps"
        :key="s.key"
        class="flex items-baseline gap-3 border-t border-rule py-1.5"
      >
        <span class="w-4 flex-none" :class="s.done ? 'text-accent' : 'text-soft'" aria-hidden="true">{{
          s.done ? '✓' : n + 1
        }}</span>
        <span class="min-w-0"
          ><NuxtLink v-if="!s.done" class="plain !py-0" :to="s.to">{{ s.title }}</NuxtLink
          ><span v-else class="text-soft"><span class="sr-only">done: </span>{{ s.title }}</span
          ><br /><span class="aside">{{ s.why }}</span></span
        >
      </li>
    </ol>
  </section>
</template>
