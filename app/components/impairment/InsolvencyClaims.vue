<script setup lang="ts">
import { computed, onMounted, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { InsolvencyClaim } from '~~/contract/impairment'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { useSession } from '~/stores/session'
import { call, problemText, urlOf } from '~/utils/api'
import { amountText, dateText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** Claims filed in insolvencies: what is expected of each, and what came of it. */
const session = useSession()
const may = computed(() => session.can('impairment.post'))
const rows = ref<InsolvencyClaim[]>([])
const filing = ref(false)
const { trouble, guard } = useGuard()
const blank = () => ({
  customer: '',
  name: '',
  administrator: '',
  address: '',
  reference: '',
  openedOn: session.today,
  dividend: 0,
})
const ask = reactive(blank())

async function load(): Promise<void> {
  try {
    await fill(rows, async () => (await call(contract.impairment.claims)).items)
  } catch (error) {
    trouble.value = problemText(error)
  }
}
onMounted(load)
async function file(): Promise<void> {
  const { name: _, dividend, ...rest } = ask
  await guard(async () => {
    await call(contract.impairment.fileClaim, {
      body: { ...rest, dividend: Math.round((Number(dividend) || 0) * 100) },
    })
    await load()
  }, `The claim on ${ask.name} is filed: its letter can be printed.`)
  if (trouble.value) return
  filing.value = false
  Object.assign(ask, blank())
}
useKeys([
  {
    key: 'f',
    label: 'File a claim in an insolvency',
    when: () => may.value,
    run: () => {
      filing.value = true
    },
  },
])
</script>

<template>
  <section class="flex-none border-t border-rule px-[18px] py-2" aria-label="Claims in insolvencies">
    <p class="flex flex-wrap items-baseline gap-4">
      <b class="font-semibold">Claims in insolvencies</b>
      <button v-if="may" class="plain" @click="filing = !filing">File one <kbd>F</kbd></button>
      <span v-if="!rows.length" class="text-soft">none filed</span>
    </p>
    <form
      v-if="filing"
      class="flex flex-wrap items-baseline gap-3 py-1"
      @submit.prevent="file"
      @keydown.esc="filing = false"
    >
      <CustomerPicker
        v-if="!ask.customer"
        @pick="
          (number, name) => {
            ask.customer = number
            ask.name = name
          }
        "
      />
      <template v-else>
        <b class="font-semibold">{{ ask.name }}</b>
        <label class="label" for="claim-with">with</label
        ><input
          id="claim-with"
          v-model="ask.administrator"
          v-focus
          class="field w-[190px]"
          required
          maxlength="80"
        />
        <input
          v-model="ask.address"
          class="field w-[220px]"
          placeholder="street, place"
          aria-label="Address"
          maxlength="200"
        />
        <label class="label" for="claim-reference">court reference</label
        ><input id="claim-reference" v-model="ask.reference" class="field w-[130px]" maxlength="60" />
        <label class="label" for="claim-opened">opened</label
        ><DateField id="claim-opened" v-model="ask.openedOn" label="Opened on" :today="session.today" />
        <span
          ><label class="label" for="claim-dividend">dividend expected </label
          ><input
            id="claim-dividend"
            v-model.number="ask.dividend"
            class="field w-[70px] text-right"
            type="number"
            min="0"
            max="100"
            step="0.01"
          />
          %</span
        >
        <button class="plain">File it</button>
      </template>
      <button type="button" class="plain" @click="filing = false">Leave it</button>
    </form>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <p v-for="c in rows" :key="c.id" class="flex flex-wrap items-baseline gap-4">
      <span class="name">{{ c.customer.name }}</span>
      <span class="text-soft">filed {{ dateText(c.date) }} with {{ c.administrator }} {{ c.reference }}</span>
      <b class="num font-semibold">{{ amountText(c.amount, session.base, true) }}</b>
      <span class="text-soft"
        >{{ amountText(c.expected, session.base) }} expected,
        {{ amountText(c.recovered, session.base) }} came</span
      >
      <a class="plain" :href="urlOf(contract.impairment.claimPdf, { id: c.id })" target="_blank">PDF</a>
    </p>
  </section>
</template>
