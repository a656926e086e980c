<script setup lang="ts" generic="P extends string">
import { RadioGroup, RadioGroupOption } from '@headlessui/vue'
import { useKeys } from '~/composables/keys'

/** The head of a page of several parts: one is shown, `.` and `,` step through them. */
const props = defineProps<{ title: string; parts: Partial<Record<P, string>> }>()
const part = defineModel<P>({ required: true })

function step(by: number): void {
  const names = Object.keys(props.parts) as P[]
  part.value = names[(names.indexOf(part.value) + by + names.length) % names.length]!
}
useKeys([
  { key: '.', label: 'Next part', run: () => step(1) },
  { key: ',', label: 'Part before', run: () => step(-1) },
])
</script>

<template>
  <div class="sheet-head">
    <h1>{{ title }}</h1>
    <RadioGroup v-model="part" class="flex gap-3" aria-label="Part"
      ><RadioGroupOption v-for="(label, name) in parts" :key="name" v-slot="{ checked }" :value="name"
        ><span
          class="cursor-pointer border-b-2 pb-0.5"
          :class="checked ? 'border-accent font-semibold' : 'border-transparent text-soft'"
          >{{ label }}</span
        ></RadioGroupOption
      ></RadioGroup
    ><span class="hint"><kbd>.</kbd> next</span>
    <slot />
  </div>
</template>
