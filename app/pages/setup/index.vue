<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { BankAccount } from '~~/contract/banking/lines'
import type { PolicyForm } from '~~/contract/reminders'
import { ROLES } from '~~/core/people'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'

definePageMeta({ noCard: true })
const session = useSession()
const desk = useDesk()
const trouble = reactive({ bank: '', company: '', policy: '', people: '', password: '' })
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
  threshold: Math.round(s.matching.threshold * 100),
})
const may = computed(() => session.can('policy.edit'))
/** The day begins there, and stamps are shown in it. */
const zones = [...new Set([s.timeZone, ...Intl.supportedValuesOf('timeZone')])].sort()
async function guard(where: keyof typeof trouble, what: () => Promise<unknown>, said: string): Promise<void> {
  try {
    await what()
    trouble[where] = ''
    desk.say({ text: said })
  } catch (error) {
    trouble[where] = problemText(error)
  }
}
const saveCompany = () =>
  guard(
    'company',
    async () => {
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
          matching: { automatic: form.automatic, threshold: form.threshold / 100 },
        },
      })
    },
    'Settings saved.',
  )

const banks = ref<BankAccount[]>([])
type Rules = Awaited<ReturnType<typeof readRules>>
const readRules = () => call(contract.banking.rules)
const rules = ref<Rules>({ rules: [], payers: [] })
const readBanks = async () => {
  banks.value = (await call(contract.banking.accounts)).items
  rules.value = await readRules()
}
if (session.can('books.read'))
  void readBanks().catch((error: unknown) => {
    trouble.bank = problemText(error)
  })
const bankForm = reactive({ name: '', iban: '', currency: s.base, account: '' })
const ruleForm = reactive({ words: '', account: '', moneyIn: false })
const addBank = () =>
  guard(
    'bank',
    async () => {
      await call(contract.banking.addAccount, { body: bankForm })
      Object.assign(bankForm, { name: '', iban: '', account: '' })
      await readBanks()
    },
    'Bank account added.',
  )
const addRule = () =>
  guard(
    'bank',
    async () => {
      rules.value = await call(contract.banking.addRule, { body: ruleForm })
      ruleForm.words = ''
    },
    'Rule added.',
  )
const dropRule = (id: number) =>
  guard(
    'bank',
    async () => {
      await call(contract.banking.dropRule, { params: { id } })
      await readBanks()
    },
    'Rule forgotten.',
  )
const dropPayer = (id: number) =>
  guard(
    'bank',
    async () => {
      await call(contract.banking.dropPayer, { params: { id } })
      await readBanks()
    },
    'Payer forgotten.',
  )
/** The column map of a bank's CSV: guessed from a file, put right by hand, saved with the account. */
const mapOf = ref<BankAccount | null>(null)
const map = ref<NonNullable<BankAccount['csvMap']> | null>(null)
const header = ref<string[]>([])
const mapFile = ref<HTMLInputElement | null>(null)
const readHeader = (file: File) =>
  guard(
    'bank',
    async () => {
      const idea = await call(contract.banking.csvMap, { body: file })
      header.value = idea.header
      map.value = idea.map
    },
    'Columns read: check them and save.',
  )
const saveMap = () =>
  guard(
    'bank',
    async () => {
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
    },
    'Column map saved.',
  )
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
const keepOnItem = (code: string, keep: boolean) =>
  guard(
    'company',
    async () => {
      session.settings = await call(contract.setup.changeClass, {
        params: { code },
        body: { keepOnItem: keep },
      })
    },
    'Class saved.',
  )
const policies = ref<PolicyForm[]>([])
const language = ref('en')
void call(contract.reminders.policies).then(
  p => {
    policies.value = p.items
  },
  (error: unknown) => {
    trouble.policy = problemText(error)
  },
)
const currencies = ['EUR', 'GBP', 'USD', 'NOK', 'JPY']
const savePolicy = (n: number) =>
  guard(
    'policy',
    async () => {
      policies.value[n] = await call(contract.reminders.changePolicy, {
        params: { code: policies.value[n]!.code },
        body: policies.value[n]!,
      })
    },
    'Reminder policy saved.',
  )
const textOf = (level: PolicyForm['levels'][number]) =>
  (level.texts[language.value] ??= { subject: '', body: '' })

type People = Awaited<ReturnType<typeof readPeople>>['items']
const readPeople = () => call(contract.people.list)
const people = ref<People>([])
if (session.can('people.edit'))
  void readPeople().then(
    p => {
      people.value = p.items
    },
    (error: unknown) => {
      trouble.people = problemText(error)
    },
  )
const person = reactive({ name: '', email: '', role: 'controller' as (typeof ROLES)[number], password: '' })
const addPerson = () =>
  guard(
    'people',
    async () => {
      await call(contract.people.add, { body: person })
      Object.assign(person, { name: '', email: '', password: '' })
      people.value = (await readPeople()).items
    },
    'Person added.',
  )
const changePerson = (id: number, body: { role?: (typeof ROLES)[number]; active?: boolean }) =>
  guard(
    'people',
    async () => {
      await call(contract.people.change, { params: { id }, body })
      people.value = (await readPeople()).items
    },
    'Saved.',
  )
const own = reactive({ current: '', password: '' })
const savePassword = () =>
  guard(
    'password',
    async () => {
      await call(contract.people.changePassword, { body: own })
      Object.assign(own, { current: '', password: '' })
    },
    'Password changed.',
  )
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto px-[18px] pb-10">
    <div class="pb-2 pt-[14px]"><h1>Setup</h1></div>
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
          ><label class="label" for="threshold">when sure to at least </label
          ><input
            id="threshold"
            v-model.number="form.threshold"
            type="number"
            min="50"
            max="100"
            class="field w-14"
            :disabled="!may"
          />
          {{ ' ' }}
          <span class="label">%</span></span
        >
        <button v-if="may" class="plain">Save</button>
      </form>
      <p v-if="trouble.company" class="wrong mt-2" role="alert">{{ trouble.company }}</p>
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
    <section v-if="session.can('books.read')" id="bank" class="border-t border-rule py-4">
      <h2 class="mb-2">Bank</h2>
      <p v-if="trouble.bank" class="wrong mb-2" role="alert">{{ trouble.bank }}</p>
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
      <div class="mt-5 flex max-w-[860px] flex-col gap-5">
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
            /><select
              v-model="ruleForm.account"
              class="field"
              aria-label="Ledger account of the rule"
              required
            >
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
                  <td class="!pl-0 hint">
                    Nobody yet. Whoever is confirmed on the bank screen is remembered.
                  </td>
                </tr>
              </tbody>
            </table>
          </div>
        </div>
      </div>
    </section>
    <section id="reminders" class="border-t border-rule py-4">
      <h2 class="mb-1">Reminder policy</h2>
      <p v-if="trouble.policy" class="wrong mb-2" role="alert">{{ trouble.policy }}</p>
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
          class="grid grid-cols-[auto_minmax(0,1fr)] gap-x-8 border-t border-rule py-3"
        >
          <div class="grid w-[424px] grid-cols-[auto_1fr] content-start gap-x-3 gap-y-1.5">
            <b class="col-span-2 font-semibold">Level {{ i + 1 }}</b>
            <label class="label" :for="`days-${i}`">Due from days late</label
            ><input
              :id="`days-${i}`"
              v-model.number="l.days"
              type="number"
              min="1"
              class="field w-16"
              :disabled="!may"
            />
            <label class="label" :for="`since-${i}`">Days since the notice before</label
            ><input
              :id="`since-${i}`"
              v-model.number="l.sincePrevious"
              type="number"
              min="0"
              class="field w-16"
              :disabled="!may"
            />
            <label class="label" :for="`deadline-${i}`">Payable within days</label
            ><input
              :id="`deadline-${i}`"
              v-model.number="l.deadlineDays"
              type="number"
              min="1"
              class="field w-16"
              :disabled="!may"
            />
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
            /><textarea
              v-model="textOf(l).body"
              class="w-full border border-rule bg-transparent p-2"
              rows="9"
              :disabled="!may"
              :aria-label="`Text, level ${i + 1}`"
            />
          </div>
        </div>
      </form>
    </section>
    <section v-if="session.can('people.edit')" class="border-t border-rule py-4">
      <h2 class="mb-2">People</h2>
      <table class="grid-table max-w-[820px]">
        <tbody>
          <tr v-for="p in people" :key="p.id">
            <td class="!pl-0 name">{{ p.name }}</td>
            <td>{{ p.email }}</td>
            <td>
              <select
                class="field"
                :value="p.role"
                :aria-label="`Role of ${p.name}`"
                @change="changePerson(p.id, { role: ($event.target as HTMLSelectElement).value as 'cash' })"
              >
                <option v-for="r in ROLES" :key="r" :value="r">{{ r }}</option>
              </select>
            </td>
            <td>
              <label class="flex items-center gap-2"
                ><input
                  type="checkbox"
                  class="tick"
                  :checked="p.active"
                  @change="changePerson(p.id, { active: !p.active })"
                />
                may sign in</label
              >
            </td>
          </tr>
        </tbody>
      </table>
      <form class="mt-3 flex flex-wrap items-baseline gap-4" @submit.prevent="addPerson">
        <input v-model="person.name" class="field" placeholder="Name" aria-label="Name" required /><input
          v-model="person.email"
          class="field"
          type="email"
          placeholder="E-mail"
          aria-label="E-mail"
          required
        /><select v-model="person.role" class="field" aria-label="Role">
          <option v-for="r in ROLES" :key="r" :value="r">{{ r }}</option></select
        ><input
          v-model="person.password"
          class="field"
          type="password"
          placeholder="First password"
          aria-label="First password"
          required
          minlength="10"
          autocomplete="new-password"
        /><button class="plain">Add a person</button>
      </form>
      <p v-if="trouble.people" class="wrong mt-2" role="alert">{{ trouble.people }}</p>
    </section>
    <section id="password" class="border-t border-rule py-4">
      <h2 class="mb-2">Your password</h2>
      <form class="flex flex-wrap items-baseline gap-4" @submit.prevent="savePassword">
        <input
          v-model="own.current"
          class="field"
          type="password"
          placeholder="Current password"
          aria-label="Current password"
          autocomplete="current-password"
          required
        /><input
          v-model="own.password"
          class="field"
          type="password"
          placeholder="New, at least 10 characters"
          aria-label="New password"
          autocomplete="new-password"
          required
          minlength="10"
        /><button class="plain">Change</button>
      </form>
      <p v-if="trouble.password" class="wrong mt-2" role="alert">{{ trouble.password }}</p>
    </section>
    <div class="grid gap-10 border-t border-rule py-4 md:grid-cols-2">
      <section>
        <h2 class="mb-2">Chart of accounts</h2>
        <table class="grid-table">
          <tbody>
            <tr v-for="a in s.chart" :key="a.number">
              <td class="!pl-0 font-semibold">{{ a.number }}</td>
              <td>{{ a.name }}</td>
              <td class="text-soft">{{ a.type }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <section>
        <h2 class="mb-2">Number series</h2>
        <table class="grid-table">
          <tbody>
            <tr v-for="x in s.series" :key="x.name">
              <td class="!pl-0">{{ x.name }}</td>
              <td class="num">next {{ x.prefix }}{{ x.next }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
  </div>
</template>
