<script setup lang="ts">
import { RadioGroup, RadioGroupOption } from '@headlessui/vue'
import { ref, watch } from 'vue'
import { useKeys } from '~/composables/keys'

/** Debts that are lost: what may be written off, what was, and money that came after all. */
const PARTS = { open: 'To write off', written: 'Written off', back: 'Came back' } as const
type Part = keyof typeof PARTS
const NAMES = Object.keys(PARTS) as Part[]
const route = useRoute()
const router = useRouter()
const asked = String(route.query.part ?? '')
const part = ref<Part>(asked in PARTS ? (asked as Part) : 'open')
const customer = ref(String(route.query.customer ?? ''))
watch([part, customer], () => {
  void router.replace({ query: { part: part.value, customer: customer.value || undefined } })
})
const step = (by: number): void => {
  part.value = NAMES[(NAMES.indexOf(part.value) + by + NAMES.length) % NAMES.length]!
}
useKeys([
  { key: '.', label: 'Next part', run: () => step(1) },
  { key: ',', label: 'Part before', run: () => step(-1) },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Bad debts</h1>
    <RadioGroup v-model="part" class="flex gap-3" aria-label="Part"
      ><RadioGroupOption v-for="name in NAMES" :key="name" v-slot="{ checked }" :value="name"
        ><span
          class="cursor-pointer border-b-2 pb-0.5"
          :class="checked ? 'border-accent font-semibold' : 'border-transparent text-soft'"
          >{{ PARTS[name] }}</span
        ></RadioGroupOption
      ></RadioGroup
    ><span class="hint"><kbd>.</kbd> next</span>
    <span v-if="customer" class="text-soft"
      >of {{ customer }} <button class="plain !py-0" @click="customer = ''">all customers</button></span
    >
  </div>
  <LossCandidates v-if="part === 'open'" :customer="customer" :item="Number(route.query.item ?? 0)" />
  <WriteOffList v-else-if="part === 'written'" :customer="customer" />
  <Recoverables v-else :customer="customer" />
</template>
