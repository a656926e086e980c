<script setup lang="ts">
import { computed, ref } from 'vue'
import { contract } from '~~/contract'
import type { PolicyForm } from '~~/contract/reminders'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'

const session = useSession()
const { trouble, guard, complain } = useGuard()
const may = computed(() => session.can('policy.edit'))
const policies = ref<PolicyForm[]>([])
const language = ref('en')
void call(contract.reminders.policies).then(p => {
  policies.value = p.items
}, complain)
/** What of a level is a number of days. */
const DAYS = [
  { of: 'days', label: 'Due from days late', least: 1 },
  { of: 'sincePrevious', label: 'Days since the notice before', least: 0 },
  { of: 'deadlineDays', label: 'Payable within days', least: 1 },
] as const
const currencies = ['EUR', 'GBP', 'USD', 'NOK', 'JPY']
const savePolicy = (n: number) =>
  guard(async () => {
    policies.value[n] = await call(contract.reminders.changePolicy, {
      params: { code: policies.value[n]!.code },
      body: policies.value[n]!,
    })
  }, 'Reminder policy saved.')
const textOf = (level: PolicyForm['levels'][number]) =>
  (level.texts[language.value] ??= { subject: '', body: '' })
</script>

<template>
  <section>
    <p v-if="trouble" class="wrong mb-2" role="alert">{{ trouble }}</p>
    <form v-for="(p, n) in policies" :key="p.code" @submit.prevent="savePolicy(n)">
      <div class="mb-2 flex items-baseline gap-5">
        <input
          v-model="p.name"
          class="field w-[220px]"
          :disabled="!may"
          aria-label="Name of the policy"
        /><span
          ><label class="label" for="language">Texts in </label
          ><select id="language" v-model="language" class="field">
            <option value="en">English</option>
            <option value="de">German</option>
            <option value="fr">French</option>
          </select></span
        ><span class="hint"
          >An item moves up one level at a time. Customers without a text in their language get the English
          one.</span
        ><button v-if="may" class="plain ml-auto">Save the policy</button>
      </div>
      <div
        v-for="(l, i) in p.levels"
        :key="i"
        class="grid grid-cols-[auto_minmax(0,1fr)] gap-x-6 border-t border-rule py-3"
      >
        <div class="grid w-[424px] grid-cols-[auto_1fr] content-start gap-x-3 gap-y-1.5">
          <b class="col-span-2 font-semibold">Level {{ i + 1 }}</b>
          <template v-for="d in DAYS" :key="d.of"
            ><label class="label" :for="`${d.of}-${i}`">{{ d.label }}</label
            ><input
              :id="`${d.of}-${i}`"
              v-model.number="l[d.of]"
              type="number"
              :min="d.least"
              class="field w-16"
              :disabled="!may"
          /></template>
          <span class="label">Minimum and fee</span><span class="hint">by currency</span>
          <template v-for="c in currencies" :key="c"
            ><span class="label pl-3">{{ c }}</span
            ><span class="flex gap-3"
              ><MoneyField
                :model-value="l.minimum[c] ?? null"
                :currency="c"
                :label="`Minimum in ${c}, level ${i + 1}`"
                placeholder="no minimum"
                @update:model-value="
                  v => {
                    if (v === null) delete l.minimum[c]
                    else l.minimum[c] = v
                  }
                " /><MoneyField
                :model-value="l.fee[c] ?? null"
                :currency="c"
                :label="`Fee in ${c}, level ${i + 1}`"
                placeholder="no fee"
                @update:model-value="
                  v => {
                    if (v === null) delete l.fee[c]
                    else l.fee[c] = v
                  }
                " /></span
          ></template>
        </div>
        <div class="flex min-w-0 flex-col gap-2">
          <input
            v-model="textOf(l).subject"
            class="field w-full"
            :disabled="!may"
            :aria-label="`Subject, level ${i + 1}`"
          /><LetterEditor
            :key="language"
            v-model="textOf(l).body"
            :label="`Text, level ${i + 1}`"
            :disabled="!may"
          /><LetterPreview
            :subject="textOf(l).subject"
            :body="textOf(l).body"
            :level="i + 1"
            :fee="l.fee.EUR ?? 0"
            currency="EUR"
          />
        </div>
      </div>
    </form>
  </section>
</template>
