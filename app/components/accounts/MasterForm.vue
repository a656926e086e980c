<script setup lang="ts">
import { useForm } from '@tanstack/vue-form'
import { computed, ref } from 'vue'
import { FIELDS, faultsOf, fieldsWhere, normal, type Field } from '~~/core/accounts'
import type { Contact, Master, MasterField, MasterValues } from '~~/contract/accounts/master'
import type { Fault } from '~~/contract/common'
import { useKeys } from '~/composables/keys'
import { useSession } from '~/stores/session'
import { MASTER_PARTS } from '~/utils/masterFields'

/**
 * The form of a master, for one that is there and for a new one. `save` is told only what changed; the fields
 * are checked as the server checks them.
 */
const props = defineProps<{
  values: MasterValues
  contacts: Contact[]
  choices: Master['choices']
  inherited: Master['inherited']
  className: string
  /** Faults that the server found, by field. */
  faults: readonly Fault[]
  isNew?: boolean
  busy?: boolean
  bank?: Master['bank']
}>()
const emit = defineEmits<{
  save: [set: Partial<MasterValues>, contacts: Contact[] | undefined, reason: string]
}>()
const reason = ref('')
const session = useSession()
const may = computed(() => session.can('customers.edit'))
const contacts = ref<Contact[]>(props.contacts.map(c => ({ ...c })))

const form = useForm({
  defaultValues: { ...props.values },
  onSubmit: () =>
    emit('save', changed.value, contactsChanged.value ? contacts.value : undefined, reason.value),
})
const now = form.useStore(state => state.values)
const OF_GROUP = Object.fromEntries(
  MASTER_PARTS.map(({ group }) => [group, fieldsWhere(f => f.group === group)]),
) as Record<string, Field[]>
const CONTACT = fieldsWhere(f => f.group === 'contact')
const PEOPLE: { field: MasterField; label: string; hint: string }[] = [
  { field: 'controller', label: 'Controller', hint: 'who chases it' },
  { field: 'sales', label: 'Sales contact', hint: 'who sells to it' },
  { field: 'parent', label: 'Stands under', hint: 'number of the head of its group' },
]
const own = (field: MasterField) =>
  field in FIELDS ? normal(field as Field, now.value[field]) : now.value[field]
const changed = computed(
  () =>
    Object.fromEntries(
      (Object.keys(props.values) as MasterField[])
        .filter(field => (own(field) ?? '') !== (props.values[field] ?? ''))
        .map(field => [field, own(field)]),
    ) as Partial<MasterValues>,
)
const contactsChanged = computed(() => JSON.stringify(contacts.value) !== JSON.stringify(props.contacts))
const count = computed(() => Object.keys(changed.value).length + (contactsChanged.value ? 1 : 0))
const faultOf = (field: MasterField): string => {
  const told = props.faults.find(f => f.path === field)
  if (told) return [told.message, told.satisfy].filter(Boolean).join(': ')
  if (!(field in changed.value) && !props.isNew) return ''
  const mine = field in FIELDS ? faultsOf({ [field]: own(field) } as never)[0] : undefined
  // A name that is not written yet is no fault while one begins.
  if (!mine || (props.isNew && (own(field) ?? '') === '')) return ''
  return `${mine.message}: ${mine.satisfy}`
}
type Value = string | number | null
const valueOf = (value: unknown) => value as Value
const limitCurrency = computed(() => {
  const code = String(now.value.limitCurrency || session.base)
  return /^[A-Z]{3}$/.test(code) ? code : session.base
})
const inheritedOf = (field: Field) =>
  field in props.inherited ? props.inherited[field as keyof Master['inherited']] : undefined
const needsSecond = computed(() =>
  (Object.keys(changed.value) as MasterField[]).some(f => FIELDS[f as Field]?.signed !== undefined),
)
const submit = () => {
  if (may.value && (count.value || props.isNew) && !props.busy) void form.handleSubmit()
}
useKeys([{ key: 'Ctrl+Enter', label: 'Save the customer', inFields: true, run: submit }])
</script>

<template>
  <form class="flex min-h-0 flex-1 flex-col" data-test="master" @submit.prevent="submit">
    <div class="min-h-0 flex-1 overflow-auto px-[18px] pb-4" tabindex="0" role="region" aria-label="Master">
      <div class="grid gap-x-10 gap-y-5 min-[1100px]:grid-cols-2">
        <section v-for="part in MASTER_PARTS" :key="part.group">
          <h6 class="part-head mb-2 border-b border-rule pb-1">
            {{ part.title }} <span class="hint ml-2 normal-case tracking-normal">{{ part.what }}</span>
          </h6>
          <p v-if="part.group === 'bank' && bank" class="mb-2" data-test="bank-changed">
            <b class="font-semibold">Changed by {{ bank.changedBy }}:</b> no money goes there before a second
            person has seen it.
          </p>
          <div class="master-grid">
            <template v-for="field in OF_GROUP[part.group]" :key="field"
              ><label class="label" :for="`m-${field}`">{{ FIELDS[field].label }}</label
              ><form.Field :name="field"
                ><template #default="{ field: f, state }"
                  ><MasterInput
                    :field="field"
                    :model-value="valueOf(state.value)"
                    :choices="choices"
                    :inherited="inheritedOf(field)"
                    :class-name="className"
                    :currency="limitCurrency"
                    :fault="faultOf(field)"
                    :disabled="!may || (FIELDS[field].fixed && !isNew)"
                    @update:model-value="f.handleChange($event as never)" /></template></form.Field
            ></template>
          </div>
        </section>
        <section>
          <h6 class="part-head mb-2 border-b border-rule pb-1">Main contact</h6>
          <div class="master-grid">
            <template v-for="field in CONTACT" :key="field"
              ><label class="label" :for="`m-${field}`">{{ FIELDS[field].label }}</label
              ><form.Field :name="field"
                ><template #default="{ field: f, state }"
                  ><MasterInput
                    :field="field"
                    :model-value="valueOf(state.value)"
                    :choices="choices"
                    :currency="limitCurrency"
                    :fault="faultOf(field)"
                    :disabled="!may"
                    @update:model-value="f.handleChange($event as never)" /></template></form.Field
            ></template>
          </div>
        </section>
        <section>
          <h6 class="part-head mb-2 border-b border-rule pb-1">Ours, and its group</h6>
          <div class="master-grid">
            <template v-for="p in PEOPLE" :key="p.field"
              ><label class="label" :for="`m-${p.field}`">{{ p.label }}</label
              ><span class="flex items-baseline gap-2"
                ><form.Field :name="p.field"
                  ><template #default="{ field: f, state }"
                    ><MasterInput
                      :field="p.field"
                      :model-value="valueOf(state.value)"
                      :choices="choices"
                      :currency="limitCurrency"
                      :fault="faultOf(p.field)"
                      :disabled="!may"
                      @update:model-value="f.handleChange($event as never)" /></template></form.Field
                ><span class="hint">{{ p.hint }}</span></span
              ></template
            >
            <slot name="group" />
          </div>
        </section>
        <section class="min-[1100px]:col-span-2">
          <h6 class="part-head mb-2 border-b border-rule pb-1">
            Further contacts
            <span class="hint ml-2 normal-case tracking-normal">who is rung, and who gets what</span>
          </h6>
          <ContactsForm v-model="contacts" :disabled="!may" />
        </section>
        <slot />
      </div>
    </div>
    <div v-if="may" class="flex items-center gap-5 border-t border-strong bg-paper px-[18px] py-2">
      <button class="go" :disabled="busy || (!count && !isNew)" data-test="save">
        {{ isNew ? 'Open the account' : 'Save' }} <span class="font-normal opacity-70">Ctrl ↵</span>
      </button>
      <input
        v-if="needsSecond && !isNew"
        v-model="reason"
        class="field w-[230px]"
        placeholder="Why, for who signs it"
        aria-label="Reason"
        maxlength="200"
      />
      <span class="text-soft" aria-live="polite"
        ><template v-if="isNew">The number stays for good.</template
        ><template v-else-if="count">{{ count === 1 ? '1 change' : `${count} changes` }}.</template
        ><template v-else>Nothing is changed.</template>
        {{ needsSecond ? 'Limits and bank details are looked at by a second person.' : '' }}</span
      >
    </div>
  </form>
</template>
