<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { fill, settle } from '~/utils/fill'

const session = useSession()
const { trouble, guard, complain } = useGuard()
const may = computed(() => session.can('policy.edit'))
type Rules = Awaited<ReturnType<typeof readRules>>
const readRules = () => call(contract.banking.rules)
const rules = ref<Rules>({ rules: [], payers: [] })
const read = async () => {
  await fill(rules, () => readRules())
}
void read().catch(complain)
const ruleForm = reactive({ words: '', account: '', moneyIn: false })
const addRule = () =>
  guard(async () => {
    await settle(rules, () => call(contract.banking.addRule, { body: ruleForm }))
    ruleForm.words = ''
  }, 'Rule added.')
const dropRule = (id: number) =>
  guard(async () => {
    await call(contract.banking.dropRule, { params: { id } })
    await read()
  }, 'Rule forgotten.')
const dropPayer = (id: number) =>
  guard(async () => {
    await call(contract.banking.dropPayer, { params: { id } })
    await read()
  }, 'Payer forgotten.')
</script>

<template>
  <div class="mt-5 flex max-w-[860px] flex-col gap-5">
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <div>
      <h6 class="part-head mb-1">Lines that go to the ledger</h6>
      <table class="grid-table">
        <tbody>
          <tr v-for="r in rules.rules" :key="r.id">
            <td class="!pl-0">{{ r.moneyIn ? 'in' : 'out' }}</td>
            <td>{{ r.words ? `“${r.words}”` : '' }} {{ r.iban }}</td>
            <td>{{ r.account }} {{ r.accountName }}</td>
            <td><button v-if="may" class="plain !py-0" @click="dropRule(r.id)">forget</button></td>
          </tr>
        </tbody>
      </table>
      <form v-if="may" class="mt-2 flex flex-wrap items-baseline gap-3" @submit.prevent="addRule">
        <select v-model="ruleForm.moneyIn" class="field" aria-label="Direction">
          <option :value="false">money out</option>
          <option :value="true">money in</option></select
        ><input
          v-model="ruleForm.words"
          class="field w-[150px]"
          placeholder="with the words"
          aria-label="Words"
          required
        /><select v-model="ruleForm.account" class="field" aria-label="Ledger account of the rule" required>
          <option value="">to</option>
          <option v-for="a in session.settings!.chart" :key="a.number" :value="a.number">
            {{ a.number }} {{ a.name }}
          </option></select
        ><button class="plain">Add</button>
      </form>
    </div>
    <div>
      <h6 class="part-head mb-1">Payers learnt</h6>
      <div class="max-h-[220px] overflow-auto">
        <table class="grid-table">
          <tbody>
            <tr v-for="p in rules.payers" :key="p.id">
              <td class="!pl-0">{{ p.name }}</td>
              <td class="text-soft">{{ p.iban }}</td>
              <td>{{ p.customer.name }}</td>
              <td><button v-if="may" class="plain !py-0" @click="dropPayer(p.id)">forget</button></td>
            </tr>
            <tr v-if="!rules.payers.length">
              <td class="!pl-0 hint">Nobody yet. Whoever is confirmed on the bank screen is remembered.</td>
            </tr>
          </tbody>
        </table>
      </div>
    </div>
  </div>
</template>
