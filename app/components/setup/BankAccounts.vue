<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { BankAccount } from '~~/contract/banking/lines'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { fill } from '~/utils/fill'

const session = useSession()
const { trouble, guard, complain } = useGuard()
const may = computed(() => session.can('policy.edit'))
const banks = ref<BankAccount[]>([])
const readBanks = async () => {
  await fill(banks, async () => (await call(contract.banking.accounts)).items)
}
void readBanks().catch(complain)
const bankForm = reactive({ name: '', iban: '', currency: session.settings!.base, account: '' })
const addBank = () =>
  guard(async () => {
    await call(contract.banking.addAccount, { body: bankForm })
    Object.assign(bankForm, { name: '', iban: '', account: '' })
    await readBanks()
  }, 'Bank account added.')
/** The column map of a bank's CSV: guessed from a file, put right by hand, saved with the account. */
const mapOf = ref<BankAccount | null>(null)
const map = ref<NonNullable<BankAccount['csvMap']> | null>(null)
const header = ref<string[]>([])
const mapFile = ref<HTMLInputElement | null>(null)
const readHeader = (file: File) =>
  guard(async () => {
    const idea = await call(contract.banking.csvMap, { body: file })
    header.value = idea.header
    map.value = idea.map
  }, 'Columns read: check them and save.')
const saveMap = () =>
  guard(async () => {
    const a = mapOf.value!
    await call(contract.banking.changeAccount, {
      params: { id: a.id },
      body: {
        name: a.name,
        iban: a.iban,
        currency: a.currency,
        account: a.account,
        csvMap: map.value,
        version: a.version,
      },
    })
    mapOf.value = null
    map.value = null
    await readBanks()
  }, 'Column map saved.')
const MAP = [
  ['date', 'Date'],
  ['valueDate', 'Value date'],
  ['amount', 'Amount, signed'],
  ['moneyIn', 'or money in'],
  ['moneyOut', 'and money out'],
  ['name', 'Payer'],
  ['iban', 'IBAN'],
  ['reference', 'Reference'],
  ['balance', 'Running balance'],
] as const
</script>

<template>
  <section>
    <p v-if="trouble" class="wrong mb-2" role="alert">{{ trouble }}</p>
    <table class="grid-table max-w-[860px]">
      <thead>
        <tr>
          <th class="!pl-0">Account</th>
          <th>IBAN</th>
          <th>Currency</th>
          <th>Ledger</th>
          <th>Columns of its CSV</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="b in banks" :key="b.id">
          <td class="!pl-0 font-semibold">{{ b.name }}</td>
          <td>{{ b.iban }}</td>
          <td>{{ b.currency }}</td>
          <td>{{ b.account }}</td>
          <td>
            {{
              b.csvMap
                ? [
                    b.csvMap.date,
                    b.csvMap.amount ?? `${b.csvMap.moneyIn}, ${b.csvMap.moneyOut}`,
                    ...b.csvMap.text,
                  ].join(', ')
                : 'guessed'
            }}
            <button
              v-if="may"
              class="plain !py-0 ml-2"
              @click="
                () => {
                  mapOf = b
                  map = b.csvMap
                  mapFile?.click()
                }
              "
            >
              from a file
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <input
      ref="mapFile"
      type="file"
      accept=".csv,.txt"
      class="sr-only"
      tabindex="-1"
      aria-label="CSV of the bank"
      @change="
        $event => {
          ;($event.target as HTMLInputElement).files?.[0] &&
            readHeader(($event.target as HTMLInputElement).files![0]!)
          ;($event.target as HTMLInputElement).value = ''
        }
      "
    />
    <form
      v-if="mapOf && map"
      class="mt-3 flex flex-wrap items-baseline gap-x-5 gap-y-2"
      @submit.prevent="saveMap"
    >
      <b class="font-semibold">{{ mapOf.name }}</b><span v-for="[k, label] in MAP" :key="k"
        ><label class="label" :for="`map-${k}`">{{ label }} </label
        ><select :id="`map-${k}`" v-model="map[k]" class="field">
          <option :value="undefined">none</option>
          <option v-for="h in header" :key="h" :value="h">{{ h }}</option>
        </select></span
      ><span
        ><label class="label" for="map-text">Text </label
        ><select id="map-text" v-model="map.text" class="field" multiple size="3">
          <option v-for="h in header" :key="h" :value="h">{{ h }}</option>
        </select></span
      ><span
        ><label class="label" for="map-order">Dates </label
        ><select id="map-order" v-model="map.order" class="field">
          <option>YMD</option>
          <option>DMY</option>
          <option>MDY</option>
        </select></span
      ><span
        ><label class="label" for="map-decimal">Decimal </label
        ><select id="map-decimal" v-model="map.decimal" class="field">
          <option>.</option>
          <option>,</option>
        </select></span
      ><button class="plain">Save the columns</button
      ><button type="button" class="hint" @click="mapOf = null">Leave</button>
    </form>
    <form v-if="may" class="mt-3 flex flex-wrap items-baseline gap-4" @submit.prevent="addBank">
      <input
        v-model="bankForm.name"
        class="field"
        placeholder="Name"
        aria-label="Name of the bank account"
        required
      /><input
        v-model="bankForm.iban"
        class="field w-[230px]"
        placeholder="IBAN"
        aria-label="IBAN"
        required
      /><input
        v-model="bankForm.currency"
        class="field w-16"
        placeholder="EUR"
        aria-label="Currency"
        required
        maxlength="3"
      /><input
        v-model="bankForm.account"
        class="field w-24"
        placeholder="Ledger no."
        aria-label="Ledger account"
        required
      /><button class="plain">Add a bank account</button>
    </form>
    <BankRules />
  </section>
</template>
