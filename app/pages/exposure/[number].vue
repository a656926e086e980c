<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { ExposureAnswer } from '~~/contract/exposure'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { holdKeys } from '~/composables/typeAhead'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText, proseText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** How much, against which limit, held for what, and whether an order may go. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const { trouble, guard, complain } = useGuard()
const number = computed(() => String(route.params.number))
const exposure = ref<ExposureAnswer | null>(null)
async function read(): Promise<void> {
  await fill(exposure, () => call(contract.exposure.account, { params: { number: number.value } }))
}
void read().catch(complain).finally(holdKeys())
watch(number, n => {
  void desk.choose(n)
  void read().catch(complain)
})
void desk.choose(number.value)
const may = computed(() => session.can('holds.set'))
const holding = ref(false)
const why = ref('')
type Hold = ExposureAnswer['holds'][number]
const releasing = ref<Hold | null>(null)
const release = reactive({ reason: '', until: session.today })
const again = () => Promise.all([read(), desk.refresh()])
const hold = () =>
  guard(async () => {
    await call(contract.exposure.setHold, { body: { customer: number.value, reason: why.value } })
    why.value = ''
    holding.value = false
    await again()
  }, 'The account is held.')
async function letGo(): Promise<void> {
  const { cause } = releasing.value!
  let waits = false
  await guard(async () => {
    const { waiting } = await call(contract.exposure.release, {
      body: { customer: number.value, cause, reason: release.reason, until: release.until || null },
    })
    waits = waiting !== null
    releasing.value = null
    release.reason = ''
    await again()
  }, 'Released.')
  if (waits)
    desk.say({ text: 'Asked for: a second person signs the release.', to: '/sign-off', action: 'See' })
}
const currencies = computed(() => {
  const own = desk.card?.currency
  const all = [session.base, ...(session.settings?.currencies ?? []), ...(own ? [own] : [])]
  return [...new Set(all)]
})
const check = ref<{ focus: () => void } | null>(null)
useKeys([
  { key: 'o', label: 'May an order go?', run: () => check.value?.focus() },
  {
    key: 'h',
    label: 'Hold the account',
    when: () => may.value,
    run: () => {
      holding.value = true
    },
  },
  {
    key: 'g',
    label: 'To the account',
    run: () => navigateTo(`/accounts/${encodeURIComponent(number.value)}`),
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>{{ exposure?.name ?? number }}</h1>
    <span class="text-soft">exposure</span>
    <span v-if="exposure?.holds.length" class="wrong font-semibold" data-test="held">held</span>
    <span class="ml-auto flex gap-4">
      <NuxtLink class="plain" :to="`/accounts/${encodeURIComponent(number)}`">Account <kbd>G</kbd></NuxtLink>
      <NuxtLink class="plain" :to="`/accounts/${encodeURIComponent(number)}/master`">Master</NuxtLink>
      <button v-if="may" class="plain" @click="holding = true">Hold <kbd>H</kbd></button>
    </span>
  </div>
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <form v-if="holding" class="flex items-baseline gap-3 px-[18px] pb-2" @submit.prevent="hold">
    <input
      v-model="why"
      v-focus
      class="field w-[320px]"
      placeholder="Why nothing more is to be shipped"
      aria-label="Why"
      required
      maxlength="200"
      @keydown.escape.stop="holding = false"
    />
    <button class="plain">Hold the account</button>
    <button type="button" class="plain" @click="holding = false">Leave it</button>
  </form>
  <div
    v-if="exposure"
    class="min-h-0 flex-1 overflow-auto px-[18px] pb-6"
    tabindex="0"
    role="region"
    aria-label="Exposure"
  >
    <ExposureParts :exposure="exposure" />
    <div class="mt-5 grid gap-x-10 gap-y-5 min-[1000px]:grid-cols-2">
      <section>
        <h6 class="part-head mb-2 border-b border-rule pb-1">May an order go? <kbd>O</kbd></h6>
        <OrderCheck ref="check" :customer="number" :currency="session.base" :currencies="currencies" />
      </section>
      <section>
        <h6 class="part-head mb-2 border-b border-rule pb-1">Held for</h6>
        <div v-for="h in exposure.holds" :key="h.cause" class="mb-2" data-test="hold">
          <p>
            <b class="font-semibold">{{ h.label }}</b> · {{ proseText(h.words) }}
            <button v-if="may" class="plain !py-0" @click="releasing = h">release</button>
          </p>
          <p v-if="h.toPay" class="text-soft">
            goes by itself when <Figure :amount="h.toPay" :currency="exposure.base" sign /> are paid
          </p>
          <form
            v-if="releasing?.cause === h.cause"
            class="mt-1 flex flex-wrap items-baseline gap-3"
            @submit.prevent="letGo"
          >
            <input
              v-model="release.reason"
              v-focus
              class="field w-[200px]"
              placeholder="Why it may be released"
              aria-label="Reason of the release"
              required
              maxlength="200"
            />
            <span class="flex items-baseline gap-1.5"
              ><label class="label" for="until">until</label
              ><DateField id="until" v-model="release.until" label="Until" :today="session.today" /></span
            ><button v-if="h.cause === 'hand'" type="button" class="plain" @click="release.until = ''">
              for good
            </button>
            <button class="plain">Release</button>
            <button type="button" class="plain" @click="releasing = null">Leave it</button>
          </form>
        </div>
        <p v-if="!exposure.holds.length" class="hint">The account is not held.</p>
      </section>
      <section v-if="exposure.history.length" class="min-[1000px]:col-span-2">
        <h6 class="part-head mb-1 border-b border-rule pb-1">Holds, all of them</h6>
        <table class="grid-table flush">
          <tbody>
            <tr v-for="h in exposure.history" :key="h.id">
              <td>{{ dateText(h.date) }}</td>
              <td>{{ h.by ?? 'a rule' }}</td>
              <td>{{ h.label }}</td>
              <td class="w-full !whitespace-normal">
                {{ proseText(h.reason) }}
                <span v-if="h.endedOn" class="text-soft"
                  >; ended {{ dateText(h.endedOn) }}<template v-if="h.endedBy"> by {{ h.endedBy }}</template
                  >: {{ h.endReason
                  }}<template v-if="h.releasedUntil">, until {{ dateText(h.releasedUntil) }}</template></span
                >
              </td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
  </div>
  <p v-else-if="!trouble" class="hint p-[18px]">Reading the ledger …</p>
</template>
