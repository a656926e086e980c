<script setup lang="ts">
import { computed, ref, toRaw } from 'vue'
import { contract } from '~~/contract'
import type { PolicyForm } from '~~/contract/reminders'
import { useGuard } from '~/composables/guard'
import { callFile } from '~/utils/api'
import { LEVEL_DAYS } from '~/utils/policyLevels'

/** A level of a policy: when it is due, what it costs, what follows, and its text in each language. */
type Level = PolicyForm['levels'][number]
const level = defineModel<Level>({ required: true })
const props = defineProps<{
  number: number
  policy: PolicyForm
  hasInterest: boolean
  disabled: boolean
}>()
const emit = defineEmits<{ remove: [] }>()
const language = ref('en')
const LANGUAGES = {
  en: 'English',
  de: 'German',
  fr: 'French',
  it: 'Italian',
  es: 'Spanish',
  no: 'Norwegian',
  ja: 'Japanese',
} as const
const CURRENCIES = ['EUR', 'GBP', 'USD', 'NOK', 'JPY']
/** Amounts by currency that a level has: what is empty is not set. */
const AMOUNTS = computed(() => [
  { label: 'Minimum', of: level.value.minimum },
  { label: 'Minimum of an item', of: level.value.minimumItem },
  ...(level.value.feeShare
    ? [
        { label: 'Fee at least', of: level.value.feeShare.floor },
        { label: 'Fee at most', of: level.value.feeShare.cap },
      ]
    : [{ label: 'Fee', of: level.value.fee }]),
])
function set(of: Record<string, number>, currency: string, value: number | null): void {
  if (value === null) delete of[currency]
  else of[currency] = value
}
function setShare(is: boolean): void {
  level.value.feeShare = is ? { percent: '1', floor: {}, cap: {} } : null
}
const EMPTY = { subject: '', body: '' }
const text = computed(() => level.value.texts[language.value] ?? EMPTY)
function say(part: 'subject' | 'body', to: string): void {
  level.value.texts[language.value] = { ...text.value, [part]: to }
}
const CONSEQUENCES = [
  { of: 'hold', label: 'orders are held while it is open' },
  { of: 'tellSales', label: 'the sales contact gets a message' },
  { of: 'handOver', label: 'it is proposed to hand the account over' },
] as const
/** The letter as a real customer would get it, in a page of its own. */
const customer = ref('')
const { trouble, complain } = useGuard()
async function preview(): Promise<void> {
  if (!customer.value.trim()) return
  try {
    const { code, name: _, version: __, validFrom: ___, ...policy } = toRaw(props.policy)
    const pdf = await callFile(contract.reminders.previewPolicy, {
      params: { code },
      body: { customer: customer.value.trim(), level: props.number, policy },
    })
    trouble.value = ''
    window.open(URL.createObjectURL(pdf), '_blank')
  } catch (error) {
    complain(error)
  }
}
const id = (name: string) => `${name}-${props.number}`
</script>

<template>
  <div class="grid grid-cols-[auto_minmax(0,1fr)] gap-x-6 border-t border-rule py-3">
    <div class="grid w-[470px] grid-cols-[auto_1fr] content-start gap-x-3 gap-y-1.5">
      <b class="font-semibold">Level {{ number }}</b
      ><button v-if="!disabled" type="button" class="hint makes text-right" @click="emit('remove')">
        remove
      </button>
      <span v-else />
      <template v-for="d in LEVEL_DAYS" :key="d.of"
        ><label class="label" :for="id(d.of)">{{ d.label }}</label
        ><input
          :id="id(d.of)"
          v-model.number="level[d.of]"
          type="number"
          :min="d.least"
          class="field w-16"
          :disabled="disabled"
      /></template>
      <span class="label">The letter goes</span
      ><select
        v-model="level.channel"
        class="field"
        :disabled="disabled"
        :aria-label="`How level ${number} goes`"
      >
        <option value="any">by e-mail where an address is known</option>
        <option value="print">by post</option>
      </select>
      <span class="label">The fee is</span
      ><span class="flex items-baseline gap-3"
        ><select
          class="field"
          :value="level.feeShare ? 'share' : 'fixed'"
          :disabled="disabled"
          :aria-label="`Kind of fee, level ${number}`"
          @change="setShare(($event.target as HTMLSelectElement).value === 'share')"
        >
          <option value="fixed">fixed, by currency</option>
          <option value="share">a share of the claim</option></select
        ><template v-if="level.feeShare"
          ><input
            v-model="level.feeShare.percent"
            class="field w-14"
            inputmode="decimal"
            :aria-label="`Percent of the claim, level ${number}`"
            :disabled="disabled"
          />
          %</template
        ></span
      >
      <span class="label">Interest</span
      ><label class="flex items-center gap-1.5"
        ><input v-model="level.interest" type="checkbox" class="tick" :disabled="disabled || !hasInterest" />
        <span :class="hasInterest ? '' : 'text-faint'">is claimed with it</span></label
      >
      <span class="label">Then</span
      ><span class="flex flex-col gap-1"
        ><label v-for="c in CONSEQUENCES" :key="c.of" class="flex min-h-7 items-center gap-1.5"
          ><input v-model="level.consequence[c.of]" type="checkbox" class="tick" :disabled="disabled" />
          {{ c.label }}</label
        ></span
      >
      <div class="col-span-2 mt-1 overflow-x-auto">
        <table :aria-label="`Amounts of level ${number}`">
          <thead>
            <tr>
              <th />
              <th v-for="c in CURRENCIES" :key="c" class="label num">{{ c }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="a in AMOUNTS" :key="a.label">
              <td class="label pr-2">{{ a.label }}</td>
              <td v-for="c in CURRENCIES" :key="c" class="h-9 py-1 pr-2">
                <MoneyField
                  class="w-[62px]"
                  :model-value="a.of[c] ?? null"
                  :currency="c"
                  :label="`${a.label} in ${c}, level ${number}`"
                  placeholder="–"
                  @update:model-value="v => set(a.of, c, v)"
                />
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </div>
    <div class="flex min-w-0 flex-col gap-2">
      <span
        ><label class="label" :for="id('language')">Text in </label
        ><select :id="id('language')" v-model="language" class="field">
          <option v-for="(name, key) in LANGUAGES" :key="key" :value="key">
            {{ name }}{{ level.texts[key]?.body ? '' : ', none yet' }}
          </option>
        </select>
        <span class="hint ml-2">without one the English goes out, and the proposal says so</span></span
      >
      <input
        :value="text.subject"
        class="field w-full"
        :disabled="disabled"
        :aria-label="`Subject, level ${number}`"
        @input="say('subject', ($event.target as HTMLInputElement).value)"
      /><LetterEditor
        :key="language"
        :model-value="text.body"
        :label="`Text, level ${number}`"
        :disabled="disabled"
        @update:model-value="to => say('body', to)"
      /><LetterPreview
        :subject="text.subject"
        :body="text.body"
        :level="number"
        :fee="level.fee.EUR ?? 0"
        currency="EUR"
      />
      <span
        ><label class="label" :for="id('customer')">As customer </label
        ><input
          :id="id('customer')"
          v-model="customer"
          class="field w-[90px]"
          placeholder="number"
          @keydown.enter.prevent="preview"
        />
        would get it <button type="button" class="plain" @click="preview">Show the letter</button
        ><span v-if="trouble" class="wrong ml-2" role="alert">{{ trouble }}</span></span
      >
    </div>
  </div>
</template>
