<script setup lang="ts">
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { JumpHit } from '~~/contract/today'
import type { Ability } from '~~/core/people'
import { useChoosing } from '~/composables/choosing'
import { useKeys } from '~/composables/keys'
import { holdKeys } from '~/composables/typeAhead'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { SETUP_PARTS } from '~/utils/setupParts'

/** Jump: a name, number, amount, IBAN, cheque number, or what to do. */
const session = useSession()
const query = ref('')
const found = ref<JumpHit[]>([])
const trouble = ref('')
const input = ref<{ el: HTMLInputElement } | null>(null)
const SCREENS: { title: string; words: string; to: string; needs: Ability }[] = [
  { title: 'Today', words: 'today first start', to: '/', needs: 'read' },
  {
    title: 'Review',
    words: 'review score probability risk class limit suggestion weights',
    to: '/review',
    needs: 'books.read',
  },
  {
    title: 'Measures',
    words: 'measures dso days sales outstanding collection effectiveness delinquent trend target',
    to: '/measures',
    needs: 'read',
  },
  { title: 'Aging', words: 'aging ageing overdue balances', to: '/aging', needs: 'read' },
  {
    title: 'Call list',
    words: 'call list ring telephone phone whom chase follow-up',
    to: '/call-list',
    needs: 'read',
  },
  {
    title: 'Promises',
    words: 'promises promised plan instalments broken kept',
    to: '/promises',
    needs: 'read',
  },
  {
    title: 'Disputes',
    words: 'disputes disputed deduction resolve credit uphold reason',
    to: '/disputes',
    needs: 'read',
  },
  { title: 'Accounts', words: 'accounts customers', to: '/accounts', needs: 'read' },
  {
    title: 'Exposure',
    words: 'exposure credit limit headroom holds held concentration',
    to: '/exposure',
    needs: 'read',
  },
  {
    title: 'Sign-off',
    words: 'sign-off sign approve second person requests',
    to: '/sign-off',
    needs: 'books.read',
  },
  {
    title: 'New customer',
    words: 'new customer open account add',
    to: '/accounts/new',
    needs: 'customers.edit',
  },
  { title: 'Receipts', words: 'receipts cash payments cheques', to: '/receipts', needs: 'books.read' },
  {
    title: 'Enter a receipt',
    words: 'enter new receipt payment cash',
    to: '/receipts/new',
    needs: 'receipts.post',
  },
  { title: 'Reminders', words: 'reminders dunning notices letters', to: '/reminders', needs: 'books.read' },
  {
    title: 'What reminders worked',
    words: 'what worked effect reminders levels cash',
    to: '/reminders/worked',
    needs: 'books.read',
  },
  {
    title: 'Dry-run of a policy',
    words: 'dry-run try policy reminders levels past',
    to: '/reminders/dry-run',
    needs: 'books.read',
  },
  {
    title: 'Handed over',
    words: 'handed over agency lawyer collection archive',
    to: '/reminders/handovers',
    needs: 'books.read',
  },
  {
    title: 'Batches',
    words: 'batches batch control total cheques register',
    to: '/receipts/batches',
    needs: 'books.read',
  },
  {
    title: 'Tick sheet',
    words: 'tick sheet remittance advice lump',
    to: '/receipts/tick-sheet',
    needs: 'receipts.post',
  },
  { title: 'Bank', words: 'bank statement lines match camt inbox', to: '/banking', needs: 'books.read' },
  {
    title: 'Refunds',
    words: 'refunds credits money back transfer cheque pain.001 unclaimed',
    to: '/refunds',
    needs: 'books.read',
  },
  {
    title: 'Factoring',
    words: 'factoring factor schedule offer invoices advance reserve recourse commission',
    to: '/factoring',
    needs: 'books.read',
  },
  {
    title: 'Bad debts',
    words: 'bad debts write off write-off lost insolvency small balances recovery dividend allowance',
    to: '/impairment',
    needs: 'books.read',
  },
  {
    title: 'Collections',
    words: 'collections direct debit pain.008 collect announce send',
    to: '/collections',
    needs: 'books.read',
  },
  {
    title: 'Collections that came back',
    words: 'returns returned direct debits refused came back',
    to: '/collections/payments',
    needs: 'books.read',
  },
  {
    title: 'Mandates',
    words: 'mandates direct debit signed lapse',
    to: '/collections/mandates',
    needs: 'read',
  },
  { title: 'Tray', words: 'tray bank slip paying-in cheques cash', to: '/banking/tray', needs: 'books.read' },
  { title: 'Outbox', words: 'outbox mail e-mail letters', to: '/outbox', needs: 'books.read' },
  { title: 'Journal', words: 'journal entries postings books', to: '/books/journal', needs: 'books.read' },
  {
    title: 'Trial balance',
    words: 'trial balance ledger accounts tie-out',
    to: '/books/trial-balance',
    needs: 'books.read',
  },
  {
    title: 'Import',
    words: 'import csv customers documents invoices',
    to: '/documents/import',
    needs: 'import',
  },
  { title: 'Exchange rates', words: 'exchange rates currency fx', to: '/rates', needs: 'read' },
  { title: 'Setup', words: 'setup settings', to: '/setup/company', needs: 'read' },
  ...SETUP_PARTS.map(p => ({
    title: `Setup, ${p.title}`,
    words: p.words,
    to: `/setup/${p.key}`,
    needs: p.needs,
  })),
]
const screens = computed<JumpHit[]>(() => {
  const q = query.value.trim().toLowerCase()
  return SCREENS.filter(
    s =>
      session.can(s.needs) &&
      (!q || s.words.split(' ').some(w => w.startsWith(q)) || s.title.toLowerCase().includes(q)),
  ).map(s => ({ kind: 'screen', title: s.title, detail: 'go', to: s.to }))
})
const hits = computed(() =>
  [...(query.value.trim().length > 0 ? found.value : []), ...screens.value].slice(0, 14),
)
let asked = 0
/** Somebody who is sure presses Enter before the answer is there: it is taken when it comes. */
let letGo: (() => void) | undefined
const answered = ref('')
watch(query, async q => {
  const mine = ++asked
  trouble.value = ''
  if (!q.trim()) {
    found.value = []
    answered.value = ''
    return
  }
  await new Promise(resolve => setTimeout(resolve, 120))
  if (mine !== asked) return
  try {
    const { items } = await call(contract.today.jump, { query: { q: q.trim() } })
    if (mine !== asked) return
    found.value = items
    answered.value = q
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    if (mine === asked && letGo) {
      // The way has begun before the keys that follow are given on.
      if (!trouble.value) await go(hits.value[0] ?? null)
      letGo()
      letGo = undefined
    }
  }
})
function early(event: KeyboardEvent): void {
  if (!query.value.trim() || answered.value === query.value || letGo) return
  event.preventDefault()
  event.stopPropagation()
  letGo = holdKeys()
}
/** An arrow marks its row a frame later: an Enter before that would choose nothing. */
const { hold } = useChoosing(() => false)
async function go(hit: JumpHit | null): Promise<void> {
  if (!hit) return
  query.value = ''
  found.value = []
  input.value?.el.blur()
  await navigateTo(hit.to)
}
useKeys([{ key: '/', label: 'Jump', run: () => input.value?.el.focus() }])
</script>

<template>
  <Combobox :model-value="null" class="relative" as="div" nullable @update:model-value="go">
    <div
      class="flex items-center border-b border-strong px-0.5 focus-within:border-accent"
      @keydown.enter.capture="early"
      @keydown.capture="hold"
    >
      <ComboboxInput
        ref="input"
        class="w-full min-w-0 bg-transparent py-1 outline-none"
        placeholder="Name, number, amount, cheque, or what you want to do"
        aria-label="Jump"
        autocomplete="off"
        data-test="jump"
        :display-value="() => query"
        @change="query = $event.target.value"
        @keydown.escape="query = ''"
      />
      <kbd class="max-md:hidden">/</kbd>
    </div>
    <ComboboxOptions
      class="absolute z-40 mt-1 max-h-[420px] w-full min-w-[340px] overflow-y-auto border border-strong bg-sheet py-1 shadow-lg"
    >
      <p v-if="trouble" class="wrong px-3 py-2">{{ trouble }}</p>
      <p v-else-if="!hits.length" class="hint px-3 py-2">
        Nothing found for “{{ query }}”. Try part of a name or number.
      </p>
      <ComboboxOption
        v-for="hit in hits"
        :key="hit.kind + hit.to + hit.title"
        v-slot="{ active }"
        :value="hit"
      >
        <div class="flex cursor-pointer items-baseline gap-3 px-3 py-1.5" :class="active ? 'bg-row' : ''">
          <span :class="hit.kind === 'customer' ? 'name' : ''">{{ hit.title }}</span><span
            class="aside ml-auto truncate"
            >{{ hit.detail }}</span
          >
        </div>
      </ComboboxOption>
    </ComboboxOptions>
  </Combobox>
</template>
