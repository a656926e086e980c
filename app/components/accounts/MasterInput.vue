<script setup lang="ts">
import { computed } from 'vue'
import { FIELDS, type Field } from '~~/core/accounts'
import type { Master, MasterField } from '~~/contract/accounts/master'
import { useSession } from '~/stores/session'
import { amountText } from '~/utils/format'
import { choicesOf, widthOf } from '~/utils/masterFields'

/** One field of a master: typed, chosen, or left to the class; what the class says is shown as such. */
const props = defineProps<{
  field: MasterField
  modelValue: string | number | null
  choices: Master['choices']
  /** What the class says; undefined for a field that is not inherited. */
  inherited?: string | number | null
  className?: string
  currency: string
  fault?: string
  disabled?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [string | number | null] }>()
const session = useSession()
const row = computed(() => FIELDS[props.field as Field])
const form = computed(() => row.value?.form ?? 'text')
const choices = computed(() => choicesOf(props.field, props.choices))
const amount = computed(() => (typeof props.modelValue === 'number' ? props.modelValue : null))
const inherits = computed(() => props.inherited !== undefined)
const isOwn = computed(() => props.modelValue !== null && props.modelValue !== '')
const ofClass = computed(() => {
  const value = props.inherited
  if (value === null || value === undefined || value === '') return 'none'
  if (typeof value === 'number') return amountText(value, session.base)
  return choices.value?.find(c => c.value === value)?.label ?? value
})
const from = computed(() => (props.className ? `from ${props.className}` : 'from the house'))
const give = (value: string) => emit('update:modelValue', value)
const takeDate = (value: string) => emit('update:modelValue', value || null)
</script>

<template>
  <span class="flex flex-wrap items-baseline gap-x-2">
    <select
      v-if="choices"
      :id="`m-${field}`"
      class="field max-w-[230px]"
      :value="modelValue ?? ''"
      :disabled="disabled"
      :aria-invalid="Boolean(fault)"
      :aria-describedby="fault ? `m-${field}-fault` : undefined"
      @change="give(($event.target as HTMLSelectElement).value)"
    >
      <option v-if="inherits" value="">{{ ofClass }} ({{ from }})</option>
      <option v-for="c in choices" :key="c.value" :value="c.value">{{ c.label }}</option>
    </select>
    <MoneyField
      v-else-if="form === 'money'"
      :id="`m-${field}`"
      :model-value="amount"
      :currency="currency"
      :label="row.label"
      :placeholder="inherits ? ofClass : 'none'"
      @update:model-value="emit('update:modelValue', $event)"
    />
    <DateField
      v-else-if="form === 'date'"
      :id="`m-${field}`"
      :model-value="String(modelValue ?? '')"
      :label="row.label"
      :today="session.today"
      @update:model-value="takeDate"
    />
    <input
      v-else
      :id="`m-${field}`"
      class="field"
      :class="row ? widthOf(field as Field) : 'w-[120px]'"
      :value="modelValue ?? ''"
      :disabled="disabled"
      :placeholder="inherits ? ofClass : ''"
      :aria-invalid="Boolean(fault)"
      :aria-describedby="fault ? `m-${field}-fault` : undefined"
      autocomplete="off"
      @input="give(($event.target as HTMLInputElement).value)"
    />
    <template v-if="inherits && !choices">
      <button
        v-if="isOwn && !disabled"
        type="button"
        class="plain !py-0"
        @click="emit('update:modelValue', form === 'money' ? null : '')"
      >
        give back to the class
      </button>
      <span v-else-if="!isOwn" class="hint">{{ from }}</span>
    </template>
    <span v-if="form === 'date' && isOwn && !disabled"
      ><button type="button" class="plain !py-0" @click="takeDate('')">no date</button></span
    >
    <span v-if="fault" :id="`m-${field}-fault`" class="wrong" role="alert">{{ fault }}</span>
  </span>
</template>
