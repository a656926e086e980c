<script setup lang="ts">
import { ref } from 'vue'
import { contract } from '~~/contract'
import type { Contact, Master, MasterValues } from '~~/contract/accounts/master'
import { MASTER_FIELDS } from '~~/contract/accounts/master'
import { FIELDS, type Field } from '~~/core/accounts'
import type { Fault } from '~~/contract/common'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { ApiProblem, call, problemText } from '~/utils/api'
import { fill } from '~/utils/fill'

definePageMeta({ noCard: true })
const desk = useDesk()
const session = useSession()
const number = ref('')
const faults = ref<readonly Fault[]>([])
const trouble = ref('')
const busy = ref(false)
const choices = ref<Master['choices'] | null>(null)
void fill(choices, () => call(contract.accounts.choices)).catch(error => {
  trouble.value = problemText(error)
})
const isNull = (field: string) => ['money', 'date'].includes(FIELDS[field as Field]?.form ?? '')
const empty = {
  ...Object.fromEntries(MASTER_FIELDS.map(field => [field, isNull(field) ? null : ''])),
  language: 'en',
  currency: session.base,
} as unknown as MasterValues
/** What a customer without a class inherits. */
const HOUSE: Master['inherited'] = {
  terms: 'net 30',
  method: 'transfer',
  policy: 'standard',
  statementCycle: 'none',
  refunds: 'yes',
  riskClass: '',
  creditLimit: null,
}
async function create(set: Partial<MasterValues>, contacts: Contact[] | undefined): Promise<void> {
  busy.value = true
  try {
    const made = await call(contract.accounts.create, {
      body: {
        number: number.value,
        values: { name: '', country: '', language: 'en', currency: session.base, ...set },
        contacts: contacts ?? [],
      },
    })
    desk.say({
      text: `${made.number} is open.${made.waiting ? ' Its limit waits for a second person.' : ''}`,
    })
    await navigateTo(`/accounts/${encodeURIComponent(made.number)}/master`)
  } catch (error) {
    trouble.value = problemText(error)
    faults.value = error instanceof ApiProblem ? (error.problem.errors ?? []) : []
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <div class="sheet-head">
    <h1>New customer</h1>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="number">Number</label
      ><input id="number" v-model="number" v-focus class="field w-[120px]" autocomplete="off" required
    /></span>
  </div>
  <p v-if="trouble" class="wrong px-[18px] pb-2" role="alert">{{ trouble }}</p>
  <MasterForm
    v-if="choices"
    :values="empty"
    :contacts="[]"
    :choices="choices"
    :inherited="HOUSE"
    class-name=""
    :faults="faults"
    :busy="busy"
    is-new
    @save="create"
  />
</template>
