<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { DISPUTE_REASONS, type DisputeReason } from '~~/core/disputes'
import { MAIL_KINDS } from '~~/core/inbox'
import { contract } from '~~/contract'
import type { AccountItem } from '~~/contract/accounts'
import type { MailDetail, MailPage, MailRow } from '~~/contract/inbox'
import { REASON_CODES } from '~/composables/chasing'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { dateText, plural } from '~/utils/format'

/** What customers wrote back, beside its account, with the action it asks for, to be confirmed. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const state = ref<'new' | 'done'>('new')
const {
  rows,
  answer,
  loading,
  trouble: unread,
  more,
  reload,
} = usePages<MailRow, MailPage>(
  cursor => call(contract.inbox.list, { query: { state: state.value, limit: 60, cursor } }),
  [state],
)
// What comes while one is here is seen without asking again.
watch(
  () => desk.unread.mail,
  (now, before) => {
    if (now > before) void reload()
  },
)
const mail = ref<MailDetail | null>(null)
const items = ref<AccountItem[]>([])
const trouble = ref('')
const busy = ref(false)
type Way = 'promise' | 'dispute' | 'copies' | 'statement' | 'address' | 'read'
const form = reactive({
  way: 'read' as Way,
  date: '',
  amount: null as number | null,
  reason: 'other' as DisputeReason,
  email: '',
  customer: '',
})
const chosen = reactive(new Set<number>())
const WAY_OF: Record<MailRow['kind'], Way> = {
  promise: 'promise',
  dispute: 'dispute',
  copy: 'copies',
  absent: 'read',
  bounce: 'address',
  person: 'address',
  other: 'read',
}
const WAYS: Record<Way, string> = {
  promise: 'Note the promise',
  dispute: 'Open the dispute',
  copies: 'Send the copies',
  statement: 'Send a statement',
  address: 'Correct the address',
  read: 'Nothing is to be done',
}
let asked = 0
async function look(row: Pick<MailRow, 'id'>): Promise<void> {
  const mine = ++asked
  try {
    const read = await call(contract.inbox.mail, { params: { id: row.id } })
    if (mine !== asked) return
    mail.value = read
    trouble.value = ''
    chosen.clear()
    items.value = []
    Object.assign(form, {
      way: WAY_OF[read.kind],
      date: read.found.date && read.found.date >= session.today ? read.found.date : '',
      amount: read.found.amount,
      reason: (read.found.reason as DisputeReason | null) ?? 'other',
      email: read.kind === 'person' ? (read.found.address ?? '') : '',
      customer: '',
    })
    if (!read.customer) return
    void desk.choose(read.customer.number)
    const open = await call(contract.accounts.items, {
      params: { number: read.customer.number },
      query: { state: 'open', sort: 'due', limit: 200 },
    })
    if (mine !== asked) return
    items.value = open.items.filter(i => i.side === 'debit')
    for (const found of read.found.items) if (items.value.some(i => i.id === found.id)) chosen.add(found.id)
    if (form.amount === null) form.amount = total.value || null
  } catch (error) {
    if (mine === asked) trouble.value = problemText(error)
  }
}
watch(rows, list => {
  const id = Number(route.query.id)
  if (id && mail.value === null) void look({ id })
  else if (!list.length) mail.value = null
})
const picked = computed(() => items.value.filter(i => chosen.has(i.id)))
const total = computed(() => picked.value.reduce((sum, i) => sum + i.open, 0))
const currency = computed(() => picked.value[0]?.currency ?? items.value[0]?.currency ?? session.base)
function toggle(item: AccountItem): void {
  if (!chosen.delete(item.id)) chosen.add(item.id)
  form.amount = total.value || null
}
const action = () => {
  const whole = picked.value.map(i => ({ itemId: i.id, amount: i.open }))
  switch (form.way) {
    case 'promise':
      return {
        do: 'promise' as const,
        currency: currency.value,
        items: whole.length && form.amount === total.value ? whole : null,
        date: form.date,
        amount: form.amount ?? 0,
      }
    case 'dispute':
      return {
        do: 'dispute' as const,
        reason: form.reason,
        items:
          picked.value.length === 1 ? [{ itemId: picked.value[0]!.id, amount: form.amount ?? 0 }] : whole,
      }
    case 'copies':
      return { do: 'copies' as const, itemIds: picked.value.map(i => i.id) }
    case 'address':
      return { do: 'address' as const, email: form.email }
    default:
      return { do: form.way }
  }
}
const off = computed(() => {
  if (!mail.value || mail.value.state === 'done') return 'done already'
  if (form.way === 'read') return ''
  if (!mail.value.customer) return 'say whose mail it is'
  if (form.way === 'promise' && (!form.date || !form.amount)) return 'say when and how much'
  if (form.way === 'dispute' && !picked.value.length) return 'choose what is disputed'
  if (form.way === 'copies' && !picked.value.length) return 'choose what to send'
  return form.way === 'address' && !form.email ? 'write the right address' : ''
})
async function act(): Promise<void> {
  if (off.value || busy.value) return
  busy.value = true
  try {
    const { doneAs } = await call(contract.inbox.act, {
      params: { id: mail.value!.id },
      body: { action: action() },
    })
    desk.say({ text: `${doneAs.charAt(0).toUpperCase()}${doneAs.slice(1)}.` })
    mail.value = null
    await Promise.all([reload(), desk.refresh(), desk.countUnread()])
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
async function assign(number: string): Promise<void> {
  try {
    await call(contract.inbox.assign, { params: { id: mail.value!.id }, body: { customer: number } })
    await look(mail.value!)
    await reload()
  } catch (error) {
    trouble.value = problemText(error)
  }
}
useKeys([
  {
    key: 'Ctrl+Enter',
    label: 'Do it, then the next',
    inFields: true,
    when: () => mail.value !== null && session.can('chase.keep'),
    run: () => void act(),
  },
])
const FOUND: Record<MailRow['foundBy'], string> = {
  reply: 'answers our letter',
  address: 'by its address',
  number: 'by a number in it',
  domain: 'by its domain: look whether it is right',
  hand: 'said by hand',
  '': 'nobody knows whose it is',
}
const STATES = { new: 'Waiting', done: 'Done' } as const
</script>

<template>
  <PartsHead v-model="state" title="Inbox" :parts="STATES">
    <NuxtLink class="plain ml-auto" to="/outbox">Outbox</NuxtLink>
    <span v-if="answer" class="hint">{{ plural(answer.waiting, 'mail') }} waiting</span>
  </PartsHead>
  <p v-if="unread" class="wrong px-[18px]" role="alert">{{ unread }}</p>
  <p v-if="answer?.unreachable" class="wrong px-[18px]" role="status">
    No mail comes in since {{ timeText(answer.unreachable.since) }}: the mailbox says “{{
      answer.unreachable.says
    }}”. It is asked again every few minutes.
  </p>
  <SheetTable
    :columns="[
      { key: 'kind', label: 'Seems to be', width: 118 },
      { key: 'customer', label: 'Customer', width: 200 },
      { key: 'subject', label: 'Subject', cut: true },
      { key: 'sender', label: 'From', width: 190, gives: 1 },
      { key: 'date', label: 'On', width: 96 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Mail"
    @more="more"
    @cursor="look"
  >
    <template #cell-kind="{ row }">{{ row.state === 'done' ? row.doneAs : MAIL_KINDS[row.kind] }}</template>
    <template #cell-customer="{ row }"
      ><span v-if="row.customer" class="name">{{ row.customer.name }}</span
      ><span v-else class="wrong">whose?</span></template
    >
    <template #cell-subject="{ row }">{{ row.subject }}</template>
    <template #cell-sender="{ row }"
      ><span class="block max-w-[190px] truncate">{{ row.sender }}</span></template
    >
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template>
    <template #empty>{{
      state === 'new' ? 'No mail waits. Answers come a day after our letters.' : 'Nothing was done yet.'
    }}</template>
  </SheetTable>
  <section
    v-if="mail"
    class="on-paper grid max-h-[330px] grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)] border-t border-strong bg-paper"
    aria-label="The mail"
    data-test="mail"
  >
    <div class="overflow-auto border-r border-rule px-[18px] py-3">
      <p class="text-soft">
        {{ mail.sender }}<br />{{
          mail.customer ? `${mail.customer.name}, ${FOUND[mail.foundBy]}` : FOUND['']
        }}
      </p>
      <p class="mt-2 whitespace-pre-wrap [overflow-wrap:anywhere]" data-test="mail-text">{{ mail.text }}</p>
    </div>
    <form
      v-if="mail.state === 'new' && session.can('chase.keep')"
      class="flex flex-col gap-2 overflow-auto px-[18px] py-3"
      @submit.prevent="act"
    >
      <div class="master-grid">
        <template v-if="!mail.customer">
          <label class="label" for="whose">Whose it is</label>
          <span class="flex items-baseline gap-3"
            ><input
              id="whose"
              v-model="form.customer"
              class="field w-[110px]"
              placeholder="Number"
              @keydown.enter.prevent="assign(form.customer)"
            /><button
              type="button"
              class="plain !py-0"
              :disabled="!form.customer"
              @click="assign(form.customer)"
            >
              It is theirs
            </button></span
          >
        </template>
        <label class="label" for="way">What to do</label>
        <select id="way" v-model="form.way" class="field">
          <option v-for="(label, way) in WAYS" :key="way" :value="way">{{ label }}</option>
        </select>
        <template v-if="form.way === 'promise'">
          <label class="label" for="mail-amount">Promised</label>
          <span class="flex flex-wrap items-baseline gap-2"
            ><MoneyField
              id="mail-amount"
              v-model="form.amount"
              :currency="currency"
              label="Promised amount" />
            {{ currency }} for
            <DateField v-model="form.date" label="Promised for" :today="session.today" :min="session.today"
          /></span>
        </template>
        <template v-if="form.way === 'dispute'">
          <label class="label" for="mail-reason">Because of</label>
          <span class="flex flex-wrap items-baseline gap-2"
            ><select id="mail-reason" v-model="form.reason" class="field">
              <option v-for="r in REASON_CODES" :key="r" :value="r">{{ DISPUTE_REASONS[r] }}</option></select
            ><MoneyField
              v-if="chosen.size === 1"
              v-model="form.amount"
              :currency="currency"
              label="Disputed amount"
          /></span>
        </template>
        <template v-if="form.way === 'address'">
          <label class="label" for="mail-address">Right address</label>
          <input
            id="mail-address"
            v-model="form.email"
            type="email"
            class="field w-full"
            autocomplete="off"
          />
        </template>
      </div>
      <table
        v-if="['promise', 'dispute', 'copies'].includes(form.way)"
        class="grid-table flush"
        aria-label="Items"
      >
        <tbody>
          <tr v-for="i in items" :key="i.id" class="cursor-pointer" @click="toggle(i)">
            <td class="!h-[26px]">
              <label class="flex min-h-6 items-center gap-2"
                ><input
                  type="checkbox"
                  class="tick"
                  :checked="chosen.has(i.id)"
                  :aria-label="i.number"
                  @click.stop
                  @change="toggle(i)"
                />{{ i.number }}</label
              >
            </td>
            <td class="!h-[26px]">{{ dateText(i.dueDate) }}</td>
            <td class="num !h-[26px]"><Figure :amount="i.open" :currency="i.currency" /></td>
          </tr>
        </tbody>
      </table>
      <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
      <p class="mt-auto flex items-baseline gap-4">
        <button class="go" :disabled="Boolean(off) || busy" data-test="act">
          {{ WAYS[form.way] }} <span class="font-normal opacity-70">Ctrl ↵</span></button
        ><span v-if="off" class="hint">{{ off }}</span>
      </p>
    </form>
    <p v-else class="px-[18px] py-3 text-soft">
      {{ mail.state === 'done' ? `${mail.doneAs}${mail.doneBy ? `, ${mail.doneBy}` : ''}` : '' }}
    </p>
  </section>
</template>
