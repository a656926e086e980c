<script setup lang="ts">
import { computed, reactive } from 'vue'
import { sureEnough } from '~~/core/banking/matching/model'
import { useSettingsForm } from '~/composables/settingsForm'

const { settings: s, may, trouble, save } = useSettingsForm()
const form = reactive({
  ...s.receiptPolicy,
  tolerance: s.receiptPolicy.tolerance as number | null,
  automatic: s.matching.automatic,
  wrongCosts: s.matching.wrongCosts,
})
/** To a tenth of a percent. */
const sureFrom = computed(() => Math.round(1000 * sureEnough(form.wrongCosts || 2)) / 10)
</script>

<template>
  <form
    class="setup-form"
    @submit.prevent="
      save({
        receiptPolicy: {
          discountGraceDays: form.discountGraceDays,
          partPayments: form.partPayments,
          tolerance: form.tolerance ?? 0,
        },
        matching: { automatic: form.automatic, wrongCosts: form.wrongCosts },
      })
    "
  >
    <label class="label" for="grace">Discount: days of grace</label
    ><input
      id="grace"
      v-model.number="form.discountGraceDays"
      type="number"
      min="0"
      max="30"
      class="field w-14"
      :disabled="!may"
    />
    <label class="label" for="part">A part payment</label
    ><select id="part" v-model="form.partPayments" class="field w-[160px]" :disabled="!may">
      <option value="lose">loses the discount</option>
      <option value="pro-rata">earns its share of it</option>
    </select>
    <label class="label" for="tolerance">Small differences up to, {{ s.base }}</label
    ><MoneyField
      id="tolerance"
      v-model="form.tolerance"
      class="w-[140px]"
      :currency="s.base"
      label="Small differences up to"
    />
    <span class="label">Bank lines</span
    ><label class="flex items-center gap-1.5"
      ><input v-model="form.automatic" type="checkbox" class="tick" :disabled="!may" /> Take those that are
      sure without a look</label
    >
    <label class="label" for="wrong-costs">One wrong posting costs as much as</label
    ><span
      ><input
        id="wrong-costs"
        v-model.number="form.wrongCosts"
        type="number"
        min="2"
        max="10000"
        class="field w-20"
        :disabled="!may"
      />
      <span class="hint">looks: so what is at least {{ sureFrom }} % sure is taken</span></span
    >
    <span /><button v-if="may" class="go justify-self-start">Save</button>
  </form>
  <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
</template>
