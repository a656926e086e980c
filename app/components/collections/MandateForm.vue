<script setup lang="ts">
import { computed, reactive } from 'vue'
import { SCHEMES } from '~~/core/collections'
import { contract } from '~~/contract'
import type { MandateRow } from '~~/contract/collections'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'

/** A mandate that a customer signed, or the amendment of one. */
const props = defineProps<{ mandate: MandateRow | null; customer: string }>()
const emit = defineEmits<{ saved: []; close: [] }>()
const session = useSession()
const { trouble, guard } = useGuard()
const m = props.mandate
const form = reactive({
  customer: m?.customer.number ?? props.customer,
  reference: m?.reference ?? '',
  scheme: m?.scheme ?? ('CORE' as const),
  use: m?.use ?? ('recurring' as const),
  signedOn: m?.signedOn ?? session.today,
  iban: m?.iban ?? '',
  bic: m?.bic ?? '',
  holder: m?.holder ?? '',
  most: m?.most ?? null,
  noticeDays: (m?.noticeDays ?? '') as number | '',
  endsNext: m?.endsNext ?? false,
  attachmentId: m?.scan?.id ?? null,
})
const title = computed(() => (m ? `Amend mandate ${m.reference}` : 'A new mandate'))
async function save(): Promise<void> {
  const { customer, endsNext, noticeDays, ...fields } = form
  const body = {
    ...fields,
    noticeDays: noticeDays === '' ? null : noticeDays,
  }
  await guard(
    () =>
      m
        ? call(contract.mandates.change, {
            params: { id: m.id },
            body: { ...body, version: m.version, endsNext },
          })
        : call(contract.mandates.add, { body: { ...body, customer } }),
    m ? 'Amended: the bank is told with the next collection.' : 'The mandate is entered.',
  )
  if (!trouble.value) emit('saved')
}
</script>

<template>
  <form
    class="flex-none border-t-2 border-ink bg-sheet px-[18px] py-3"
    aria-label="Mandate"
    @submit.prevent="save"
    @keydown.esc="emit('close')"
  >
    <h6 class="part-head mb-2">{{ title }}</h6>
    <div class="flex flex-wrap items-baseline gap-x-4 gap-y-2">
      <span v-if="!m"
        ><label class="label" for="m-customer">Account </label
        ><input id="m-customer" v-model="form.customer" v-focus class="field w-[84px]" required
      /></span>
      <span
        ><label class="label" for="m-iban">IBAN </label
        ><input id="m-iban" v-model="form.iban" class="field w-[238px]" required
      /></span>
      <span
        ><label class="label" for="m-bic">BIC </label
        ><input id="m-bic" v-model="form.bic" class="field w-[108px]" placeholder="not needed"
      /></span>
      <span
        ><label class="label" for="m-holder">of </label
        ><input id="m-holder" v-model="form.holder" class="field w-[170px]" placeholder="the customer"
      /></span>
      <span class="flex items-baseline gap-1.5"
        ><label class="label" for="m-signed">signed on</label
        ><DateField
          id="m-signed"
          v-model="form.signedOn"
          label="Signed on"
          :today="session.today"
          :max="session.today"
      /></span>
      <span
        ><label class="label" for="m-scheme">Scheme </label
        ><select id="m-scheme" v-model="form.scheme" class="field">
          <option v-for="(label, value) in SCHEMES" :key="value" :value="value">
            {{ value }}: {{ label }}
          </option>
        </select></span
      >
      <span
        ><label class="label" for="m-use">for </label
        ><select id="m-use" v-model="form.use" class="field">
          <option value="recurring">all that follow</option>
          <option value="one-off">one collection only</option>
        </select></span
      >
      <span
        ><label class="label" for="m-reference">Reference </label
        ><input
          id="m-reference"
          v-model="form.reference"
          class="field w-[120px]"
          placeholder="our next number"
      /></span>
      <span class="flex items-baseline gap-1.5"
        ><label class="label" for="m-most">at most, EUR</label
        ><MoneyField
          id="m-most"
          v-model="form.most"
          currency="EUR"
          label="At most"
          class="w-[100px]"
          placeholder="no limit"
      /></span>
      <span
        ><label class="label" for="m-notice">notice of </label
        ><input
          id="m-notice"
          v-model.number="form.noticeDays"
          type="number"
          min="0"
          max="60"
          class="field w-14"
          placeholder="usual"
        />
        days</span
      >
      <ScanField v-model="form.attachmentId" :customer="form.customer.trim()" :of="form.reference" />
      <label v-if="m" class="flex items-center gap-1.5"
        ><input v-model="form.endsNext" type="checkbox" class="tick" /> the next collection is the last</label
      >
      <span class="ml-auto flex gap-3"
        ><button class="go">{{ m ? 'Amend it' : 'Enter it' }}</button
        ><button type="button" class="plain" @click="emit('close')">Leave it <kbd>Esc</kbd></button></span
      >
    </div>
    <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
  </form>
</template>
