<script setup lang="ts">
import type { Contact } from '~~/contract/accounts/master'

/** The people at a customer's beside the main one, each with what they are for. */
const props = defineProps<{ modelValue: Contact[]; disabled?: boolean }>()
const emit = defineEmits<{ 'update:modelValue': [Contact[]] }>()
const ROLES = [
  { key: 'money', label: 'money', title: 'to ring about money' },
  { key: 'reminders', label: 'reminders', title: 'gets reminders' },
  { key: 'statements', label: 'statements', title: 'gets statements' },
  { key: 'collections', label: 'collections', title: 'gets notices of collections' },
] as const
const TEXTS = [
  { key: 'name', label: 'Name', width: 'w-[140px]' },
  { key: 'job', label: 'What they do', width: 'w-[120px]' },
  { key: 'email', label: 'E-mail', width: 'w-[190px]' },
  { key: 'phone', label: 'Telephone', width: 'w-[130px]' },
] as const
const change = (at: number, part: Partial<Contact>) =>
  emit(
    'update:modelValue',
    props.modelValue.map((c, i) => (i === at ? { ...c, ...part } : c)),
  )
const add = () =>
  emit('update:modelValue', [
    ...props.modelValue,
    {
      name: '',
      job: '',
      email: '',
      phone: '',
      money: false,
      reminders: false,
      statements: false,
      collections: false,
    },
  ])
const drop = (at: number) =>
  emit(
    'update:modelValue',
    props.modelValue.filter((_, i) => i !== at),
  )
</script>

<template>
  <div>
    <div
      v-for="(c, at) in modelValue"
      :key="at"
      class="mb-1.5 flex flex-wrap items-baseline gap-x-3 gap-y-1"
      data-test="contact"
    >
      <input
        v-for="t in TEXTS"
        :key="t.key"
        class="field"
        :class="t.width"
        :value="c[t.key]"
        :placeholder="t.label"
        :aria-label="`${t.label}, contact ${at + 1}`"
        :disabled="disabled"
        @input="change(at, { [t.key]: ($event.target as HTMLInputElement).value })"
      />
      <label v-for="r in ROLES" :key="r.key" class="label flex items-center gap-1" :title="r.title"
        ><input
          type="checkbox"
          :checked="c[r.key]"
          :disabled="disabled"
          @change="change(at, { [r.key]: ($event.target as HTMLInputElement).checked })"
        />{{ r.label }}</label
      >
      <button v-if="!disabled" type="button" class="plain !py-0" @click="drop(at)">remove</button>
    </div>
    <p v-if="!modelValue.length" class="hint">Only the main contact.</p>
    <button v-if="!disabled" type="button" class="plain" @click="add">Add a contact</button>
  </div>
</template>
