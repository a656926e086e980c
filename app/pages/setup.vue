<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { PolicyForm } from '~~/contract/reminders'
import { ROLES } from '~~/core/people'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'

definePageMeta({ noCard: true })
const session = useSession()
const desk = useDesk()
const trouble = reactive({ company: '', policy: '', people: '', password: '' })
const s = session.settings!
const form = reactive({ company: s.company, bounds: s.bounds.join(', '), overdueTarget: s.overdueTarget as number | null, closedUntil: s.closedUntil ?? '', ...s.receiptPolicy, tolerance: s.receiptPolicy.tolerance as number | null })
const may = computed(() => session.can('policy.edit'))
async function guard(where: keyof typeof trouble, what: () => Promise<unknown>, said: string): Promise<void> {
  try { await what(); trouble[where] = ''; desk.say({ text: said }) }
  catch (error) { trouble[where] = problemText(error) }
}
const saveCompany = () => guard('company', async () => {
  session.settings = await call(contract.today.changeSettings, { body: { company: form.company, bounds: form.bounds.split(/[\s,;]+/).filter(Boolean).map(Number), overdueTarget: form.overdueTarget ?? 0, closedUntil: form.closedUntil || null, receiptPolicy: { discountGraceDays: form.discountGraceDays, partPayments: form.partPayments, tolerance: form.tolerance ?? 0 } } })
}, 'Settings saved.')

const policies = ref<PolicyForm[]>([])
const language = ref('en')
void call(contract.reminders.policies).then((p) => { policies.value = p.items }, (error: unknown) => { trouble.policy = problemText(error) })
const currencies = ['EUR', 'GBP', 'USD', 'NOK', 'JPY']
const savePolicy = (n: number) => guard('policy', async () => {
  policies.value[n] = await call(contract.reminders.changePolicy, { params: { code: policies.value[n]!.code }, body: policies.value[n]! })
}, 'Reminder policy saved.')
const textOf = (level: PolicyForm['levels'][number]) => (level.texts[language.value] ??= { subject: '', body: '' })

type People = Awaited<ReturnType<typeof readPeople>>['items']
const readPeople = () => call(contract.people.list)
const people = ref<People>([])
if (session.can('people.edit')) void readPeople().then((p) => { people.value = p.items }, (error: unknown) => { trouble.people = problemText(error) })
const person = reactive({ name: '', email: '', role: 'controller' as (typeof ROLES)[number], password: '' })
const addPerson = () => guard('people', async () => {
  await call(contract.people.add, { body: person })
  Object.assign(person, { name: '', email: '', password: '' })
  people.value = (await readPeople()).items
}, 'Person added.')
const changePerson = (id: number, body: { role?: (typeof ROLES)[number], active?: boolean }) => guard('people', async () => {
  await call(contract.people.change, { params: { id }, body })
  people.value = (await readPeople()).items
}, 'Saved.')
const own = reactive({ current: '', password: '' })
const savePassword = () => guard('password', async () => { await call(contract.people.changePassword, { body: own }); Object.assign(own, { current: '', password: '' }) }, 'Password changed.')
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto px-[18px] pb-10">
    <div class="pb-2 pt-[14px]"><h1>Setup</h1></div>
    <section class="border-t border-rule py-4"><h2 class="mb-3">Company, aging, receipts</h2>
      <form class="flex flex-wrap items-baseline gap-x-6 gap-y-3" @submit.prevent="saveCompany">
        <span><label class="label" for="company">Name </label><input id="company" v-model="form.company" class="field w-[180px]" :disabled="!may" required></span>
        <span><label class="label" for="bounds">Buckets end at days late </label><input id="bounds" v-model="form.bounds" class="field w-[110px]" :disabled="!may"></span>
        <span><label class="label" for="target">Target for overdue, {{ s.base }} </label><MoneyField id="target" v-model="form.overdueTarget" :currency="s.base" label="Target for overdue" /></span>
        <span><label class="label" for="closed">Closed up to </label><input id="closed" v-model="form.closedUntil" class="field w-[110px]" placeholder="YYYY-MM-DD" :disabled="!may"></span>
        <span><label class="label" for="grace">Discount: days of grace </label><input id="grace" v-model.number="form.discountGraceDays" type="number" min="0" max="30" class="field w-14" :disabled="!may"></span>
        <span><label class="label" for="part">a part payment </label><select id="part" v-model="form.partPayments" class="field" :disabled="!may"><option value="lose">loses it</option><option value="pro-rata">earns its share</option></select></span>
        <span><label class="label" for="tolerance">Small differences up to, {{ s.base }} </label><MoneyField id="tolerance" v-model="form.tolerance" :currency="s.base" label="Small differences up to" /></span>
        <button v-if="may" class="plain">Save</button>
      </form><p v-if="trouble.company" class="wrong mt-2" role="alert">{{ trouble.company }}</p>
    </section>
    <section id="reminders" class="border-t border-rule py-4"><h2 class="mb-1">Reminder policy</h2>
      <p v-if="trouble.policy" class="wrong mb-2" role="alert">{{ trouble.policy }}</p>
      <form v-for="(p, n) in policies" :key="p.code" @submit.prevent="savePolicy(n)">
        <div class="mb-2 flex items-baseline gap-5"><input v-model="p.name" class="field w-[220px]" :disabled="!may" aria-label="Name of the policy"><span><label class="label" for="language">Texts in </label><select id="language" v-model="language" class="field"><option value="en">English</option><option value="de">German</option><option value="fr">French</option></select></span><span class="hint">An item moves up one level at a time. Customers without a text in their language get the English one.</span><button v-if="may" class="plain ml-auto">Save the policy</button></div>
        <div v-for="(l, i) in p.levels" :key="i" class="grid grid-cols-[auto_minmax(0,1fr)] gap-x-8 border-t border-rule py-3">
          <div class="grid w-[424px] grid-cols-[auto_1fr] content-start gap-x-3 gap-y-1.5">
            <b class="col-span-2 font-semibold">Level {{ i + 1 }}</b>
            <label class="label" :for="`days-${i}`">Due from days late</label><input :id="`days-${i}`" v-model.number="l.days" type="number" min="1" class="field w-16" :disabled="!may">
            <label class="label" :for="`since-${i}`">Days since the notice before</label><input :id="`since-${i}`" v-model.number="l.sincePrevious" type="number" min="0" class="field w-16" :disabled="!may">
            <label class="label" :for="`deadline-${i}`">Payable within days</label><input :id="`deadline-${i}`" v-model.number="l.deadlineDays" type="number" min="1" class="field w-16" :disabled="!may">
            <span class="label">Minimum and fee</span><span class="hint">by currency</span>
            <template v-for="c in currencies" :key="c"><span class="label pl-3">{{ c }}</span><span class="flex gap-3"><MoneyField :model-value="l.minimum[c] ?? null" :currency="c" :label="`Minimum in ${c}, level ${i + 1}`" placeholder="no minimum" @update:model-value="v => { if (v === null) delete l.minimum[c]; else l.minimum[c] = v }" /><MoneyField :model-value="l.fee[c] ?? null" :currency="c" :label="`Fee in ${c}, level ${i + 1}`" placeholder="no fee" @update:model-value="v => { if (v === null) delete l.fee[c]; else l.fee[c] = v }" /></span></template>
          </div>
          <div class="flex min-w-0 flex-col gap-2"><input v-model="textOf(l).subject" class="field w-full" :disabled="!may" :aria-label="`Subject, level ${i + 1}`"><textarea v-model="textOf(l).body" class="w-full border border-rule bg-transparent p-2" rows="9" :disabled="!may" :aria-label="`Text, level ${i + 1}`" /></div>
        </div>
      </form>
    </section>
    <section v-if="session.can('people.edit')" class="border-t border-rule py-4"><h2 class="mb-2">People</h2>
      <table class="grid-table max-w-[820px]"><tbody><tr v-for="p in people" :key="p.id"><td class="!pl-0 name">{{ p.name }}</td><td>{{ p.email }}</td><td><select class="field" :value="p.role" :aria-label="`Role of ${p.name}`" @change="changePerson(p.id, { role: ($event.target as HTMLSelectElement).value as 'cash' })"><option v-for="r in ROLES" :key="r" :value="r">{{ r }}</option></select></td><td><label class="flex items-center gap-2"><input type="checkbox" class="tick" :checked="p.active" @change="changePerson(p.id, { active: !p.active })"> may sign in</label></td></tr></tbody></table>
      <form class="mt-3 flex flex-wrap items-baseline gap-4" @submit.prevent="addPerson"><input v-model="person.name" class="field" placeholder="Name" aria-label="Name" required><input v-model="person.email" class="field" type="email" placeholder="E-mail" aria-label="E-mail" required><select v-model="person.role" class="field" aria-label="Role"><option v-for="r in ROLES" :key="r" :value="r">{{ r }}</option></select><input v-model="person.password" class="field" type="password" placeholder="First password" aria-label="First password" required minlength="10" autocomplete="new-password"><button class="plain">Add a person</button></form>
      <p v-if="trouble.people" class="wrong mt-2" role="alert">{{ trouble.people }}</p>
    </section>
    <section id="password" class="border-t border-rule py-4"><h2 class="mb-2">Your password</h2>
      <form class="flex flex-wrap items-baseline gap-4" @submit.prevent="savePassword"><input v-model="own.current" class="field" type="password" placeholder="Current password" aria-label="Current password" autocomplete="current-password" required><input v-model="own.password" class="field" type="password" placeholder="New, at least 10 characters" aria-label="New password" autocomplete="new-password" required minlength="10"><button class="plain">Change</button></form>
      <p v-if="trouble.password" class="wrong mt-2" role="alert">{{ trouble.password }}</p>
    </section>
    <div class="grid gap-10 border-t border-rule py-4 md:grid-cols-2">
      <section><h2 class="mb-2">Chart of accounts</h2><table class="grid-table"><tbody><tr v-for="a in s.chart" :key="a.number"><td class="!pl-0 font-semibold">{{ a.number }}</td><td>{{ a.name }}</td><td class="text-soft">{{ a.type }}</td></tr></tbody></table></section>
      <section><h2 class="mb-2">Number series</h2><table class="grid-table"><tbody><tr v-for="x in s.series" :key="x.name"><td class="!pl-0">{{ x.name }}</td><td class="num">next {{ x.prefix }}{{ x.next }}</td></tr></tbody></table></section>
    </div>
  </div>
</template>
