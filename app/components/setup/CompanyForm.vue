<script setup lang="ts">
import { computed, reactive } from 'vue'
import { contract } from '~~/contract'
import { sureEnough } from '~~/core/banking/matching/model'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'

const session = useSession()
const { trouble, guard } = useGuard()
const s = session.settings!
const form = reactive({
  company: s.company,
  timeZone: s.timeZone,
  bounds: s.bounds.join(', '),
  overdueTarget: s.overdueTarget as number | null,
  closedUntil: s.closedUntil ?? '',
  ...s.receiptPolicy,
  tolerance: s.receiptPolicy.tolerance as number | null,
  automatic: s.matching.automatic,
  wrongCosts: s.matching.wrongCosts,
})
const sureFrom = computed(() => Math.round(1000 * sureEnough(form.wrongCosts || 2)) / 10)
const may = computed(() => session.can('policy.edit'))
/** The day begins there, and stamps are shown in it. */
const zones = [...new Set([s.timeZone, ...Intl.supportedValuesOf('timeZone')])].sort()
const saveCompany = () =>
  guard(async () => {
    session.settings = await call(contract.setup.changeSettings, {
      body: {
        company: form.company,
        timeZone: form.timeZone,
        bounds: form.bounds
          .split(/[\s,;]+/)
          .filter(Boolean)
          .map(Number),
        overdueTarget: form.overdueTarget ?? 0,
        closedUntil: form.closedUntil || null,
        receiptPolicy: {
          discountGraceDays: form.discountGraceDays,
          partPayments: form.partPayments,
          tolerance: form.tolerance ?? 0,
        },
        matching: { automatic: form.automatic, wrongCosts: form.wrongCosts },
      },
    })
  }, 'Settings saved.')

const keepOnItem = (code: string, keep: boolean) =>
  guard(async () => {
    session.settings = await call(contract.setup.changeClass, {
      params: { code },
      body: { keepOnItem: keep },
    })
  }, 'Class saved.')
</script>

<template>
  <section class="border-t border-rule py-4">
    <h2 class="mb-3">Company, aging, receipts</h2>
    <form class="flex flex-wrap items-baseline gap-x-6 gap-y-3" @submit.prevent="saveCompany">
      <span
        ><label class="label" for="company">Name </label
        ><input id="company" v-model="form.company" class="field w-[180px]" :disabled="!may" required
      /></span>
      <span
        ><label class="label" for="zone">Time zone </label
        ><select id="zone" v-model="form.timeZone" class="field w-[150px]" :disabled="!may">
          <option v-for="z in zones" :key="z" :value="z">{{ z.replace(/_/g, ' ') }}</option>
        </select></span
      >
      <span
        ><label class="label" for="bounds">Buckets end at days late </label
        ><input id="bounds" v-model="form.bounds" class="field w-[110px]" :disabled="!may"
      /></span>
      <span
        ><label class="label" for="target">Target for overdue, {{ s.base }} </label
        ><MoneyField id="target" v-model="form.overdueTarget" :currency="s.base" label="Target for overdue"
      /></span>
      <span
        ><label class="label" for="closed">Closed up to </label
        ><input
          id="closed"
          v-model="form.closedUntil"
          class="field w-[110px]"
          placeholder="YYYY-MM-DD"
          :disabled="!may"
      /></span>
      <span
        ><label class="label" for="grace">Discount: days of grace </label
        ><input
          id="grace"
          v-model.number="form.discountGraceDays"
          type="number"
          min="0"
          max="30"
          class="field w-14"
          :disabled="!may"
      /></span>
      <span
        ><label class="label" for="part">a part payment </label
        ><select id="part" v-model="form.partPayments" class="field" :disabled="!may">
          <option value="lose">loses it</option>
          <option value="pro-rata">earns its share</option>
        </select></span
      >
      <span
        ><label class="label" for="tolerance">Small differences up to, {{ s.base }} </label
        ><MoneyField
          id="tolerance"
          v-model="form.tolerance"
          :currency="s.base"
          label="Small differences up to"
      /></span>
      <label class="label flex items-baseline gap-1.5"
        ><input v-model="form.automatic" type="checkbox" class="tick" :disabled="!may" /> Take bank lines
        without a look</label
      >
      <span
        ><label class="label" for="wrong-costs">one wrong posting costs as much as </label
        ><input
          id="wrong-costs"
          v-model.number="form.wrongCosts"
          type="number"
          min="2"
          max="10000"
          class="field w-16"
          :disabled="!may"
        />
        {{ ' ' }}
        <span class="label">looks: from {{ sureFrom }} % on</span></span
      >
      <button v-if="may" class="plain">Save</button>
    </form>
    <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
    <p class="mt-3 flex flex-wrap gap-x-5 gap-y-1">
      <span class="label">An overpayment may be kept on the item for</span
      ><label v-for="c in session.settings!.classes" :key="c.code" class="flex items-center gap-1.5"
        ><input
          type="checkbox"
          class="tick"
          :disabled="!may"
          :checked="c.keepOnItem"
          @change="keepOnItem(c.code, !c.keepOnItem)"
        />
        {{ c.name }}</label
      >
    </p>
  </section>
</template>
