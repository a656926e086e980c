<script setup lang="ts">
import { computed, ref } from 'vue'
import { contract } from '~~/contract'
import { useKeys } from '~/composables/keys'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText, proseText, shortDay, wholeText } from '~/utils/format'

/** The Card: the chosen customer, the same on every screen. */
const desk = useDesk()
const session = useSession()
const card = computed(() => desk.card)
// A long address breaks at its @.
const mailbox = computed(() => (card.value?.email ?? '').split('@')[0])
const domain = computed(() => (card.value?.email ?? '').split('@')[1])
const route = useRoute()
/** What leads elsewhere: the way to where one is, is none. */
const next = computed(() => (card.value?.next ?? []).filter(a => decodeURI(a.to) !== decodeURI(route.path)))
const noting = ref(false)
const note = ref('')
const trouble = ref('')
/** Day and month: the year is this one, or just over. */
const over90 = computed(() => card.value?.amounts.at(-1) ?? 0)
const pays = computed(() => {
  const u = card.value?.usualDaysLate
  if (!u) return 'no history yet'
  const days = Math.round(u.average)
  const trend = u.recent - u.average > 3 ? ', slowing' : u.average - u.recent > 3 ? ', improving' : ''
  return (
    (Math.abs(days) < 1
      ? 'on time'
      : `${Math.abs(days)} ${Math.abs(days) === 1 ? 'day' : 'days'} ${days > 0 ? 'late' : 'early'}`) + trend
  )
})
async function saveNote(): Promise<void> {
  try {
    await call(contract.accounts.note, { params: { number: card.value!.number }, body: { text: note.value } })
    note.value = ''
    noting.value = false
    trouble.value = ''
    await desk.refresh()
  } catch (error) {
    trouble.value = problemText(error)
  }
}
useKeys([
  {
    key: 't',
    label: 'Telephone the contact of the Card',
    when: () => Boolean(card.value?.phone),
    run: () => {
      window.location.href = `tel:${card.value!.phone.replace(/\s/g, '')}`
    },
  },
  {
    key: 'n',
    label: 'Note on the account',
    when: () => Boolean(card.value) && session.can('notes.write'),
    run: () => {
      noting.value = true
    },
  },
  ...[0, 1, 2].map(i => ({
    key: String(i + 1),
    label: `Action ${i + 1} of the Card`,
    when: () => Boolean(next.value[i]),
    run: () => {
      void navigateTo(next.value[i]!.to)
    },
  })),
])
const makeUp = (bucket: 'all' | 'overdue' | 'onAccount') => {
  desk.makeUp = {
    title: `${card.value!.name}, ${{ all: 'open', overdue: 'overdue', onAccount: 'on account' }[bucket]}`,
    query: { by: 'customer', key: card.value!.number, bucket },
  }
}
</script>

<template>
  <aside class="overflow-y-auto border-l border-strong bg-paper px-4 py-[14px]" aria-label="Card">
    <p v-if="desk.cardTrouble" class="wrong">{{ desk.cardTrouble }}</p>
    <template v-if="card">
      <NuxtLink :to="`/accounts/${card.number}`"
        ><h2 class="!text-[20px]">{{ card.name }}</h2></NuxtLink
      >
      <p class="cents mt-0.5">
        {{ card.number }}<template v-if="card.class"> · {{ card.class }}</template> · {{ card.country }} ·
        {{ card.currency }}
      </p>
      <p class="cents">{{ card.termsText }}</p>
      <p v-if="card.holds.length" class="wrong my-0.5" data-test="card-held">
        <NuxtLink class="makes inline-block min-h-6 leading-6" :to="`/exposure/${card.number}`"
          >Held: {{ card.holds.map(h => h.label.toLowerCase()).join(', ') }}</NuxtLink
        >
      </p>
      <p v-if="card.parent" class="cents">
        group of
        <NuxtLink class="makes inline-block min-h-6 leading-6" :to="`/accounts/${card.parent.number}`">{{
          card.parent.name
        }}</NuxtLink>
      </p>
      <p v-if="card.members" class="cents">head of a group of {{ card.members + 1 }}</p>
      <hr class="my-2.5 border-rule" />
      <p v-if="card.contact || card.phone">
        <b class="font-semibold">{{ card.contact || 'Accounts payable' }}</b><br /><a
          v-if="card.phone"
          class="makes"
          :href="`tel:${card.phone.replace(/\s/g, '')}`"
          >{{ card.phone }} <kbd>T</kbd></a
        >
      </p>
      <p v-else class="hint">No contact yet. Import one with the customer.</p>
      <p v-if="card.email" class="cents [overflow-wrap:anywhere]">{{ mailbox }}@<wbr />{{ domain }}</p>
      <hr class="my-2.5 border-rule" />
      <div class="flex justify-between">
        <span class="text-soft">Open</span
        ><button class="makes font-semibold" data-test="card-open" @click="makeUp('all')">
          <Figure :amount="card.open" :currency="card.base" zero />
        </button>
      </div>
      <Strata
        class="mb-1 mt-1.5"
        :amounts="card.amounts"
        :labels="card.buckets.map(b => b.label)"
        :currency="card.base"
        :height="12"
      />
      <div class="cents flex justify-between text-[11px]">
        <button class="makes" @click="makeUp('overdue')">
          {{ wholeText(card.overdue, card.base) }} overdue</button
        ><span v-if="over90" class="wrong"
          >{{ wholeText(over90, card.base) }} {{ card.buckets.at(-1)!.label }}</span
        >
      </div>
      <div v-if="card.onAccount" class="mt-1 flex justify-between">
        <span class="text-soft">On account</span
        ><button class="makes font-semibold" @click="makeUp('onAccount')">
          <Figure :amount="card.onAccount" :currency="card.base" cr />
        </button>
      </div>
      <template v-if="card.byCurrency.some(c => c.currency !== card!.base)"
        ><div v-for="c in card.byCurrency" :key="c.currency" class="flex justify-between">
          <span class="text-soft">in {{ c.currency }}</span
          ><Figure :amount="c.open" :currency="c.currency" zero /></div
      ></template>
      <p v-if="card.exposureTrouble" class="hint mt-2">
        Orders and limit are not counted: {{ proseText(card.exposureTrouble) }}.
      </p>
      <template v-if="card.limit !== null">
        <hr class="my-2.5 border-rule" />
        <div class="flex justify-between">
          <span class="text-soft">Exposure of {{ wholeText(card.limit, card.base) }} limit</span
          ><b class="font-semibold"><Figure :amount="card.exposure" :currency="card.base" whole zero /></b>
        </div>
        <div class="relative mb-[3px] mt-1.5 h-1.5 bg-wash">
          <i
            class="absolute inset-y-0 left-0"
            :style="{
              width: `${Math.min(100, Math.max(0, (100 * card.exposure) / (card.limit || 1)))}%`,
              background: card.headroom! < 0 ? 'var(--alert)' : 'var(--accent)',
            }"
          />
        </div>
        <p class="text-[11px]" :class="card.headroom! < 0 ? 'wrong' : 'cents'">
          {{ wholeText(Math.abs(card.headroom!), card.base) }}
          {{ card.headroom! < 0 ? 'over the limit' : 'left' }}
        </p>
      </template>
      <hr class="my-2.5 border-rule" />
      <dl class="card-facts grid grid-cols-[auto_1fr] gap-x-3">
        <dt class="text-soft">Last receipt</dt>
        <dd class="text-right font-semibold">
          <NuxtLink
            v-if="card.lastReceipt && session.can('books.read')"
            class="makes"
            :to="`/receipts/${card.lastReceipt.id}`"
            >{{ amountText(card.lastReceipt.amount, card.lastReceipt.currency) }} ·
            {{ shortDay(card.lastReceipt.date) }}</NuxtLink
          ><span v-else class="font-normal text-faint">none yet</span>
        </dd>
        <dt class="text-soft">Usually pays</dt>
        <dd
          class="text-right font-semibold"
          :title="
            card.usualDaysLate
              ? `mean of the last ${card.usualDaysLate.count} invoices paid, from due date to payment`
              : ''
          "
        >
          {{ pays }}
        </dd>
        <dt class="text-soft">Reminder</dt>
        <dd class="text-right font-semibold">
          <a
            v-if="card.reminder"
            class="makes"
            :href="`/api/reminders/notices/${card.reminder.noticeId}/letter`"
            target="_blank"
            >level {{ card.reminder.level }}, {{ shortDay(card.reminder.date) }}</a
          ><span v-else class="font-normal text-faint">none</span>
        </dd>
        <template v-if="card.handedOver"
          ><dt class="text-soft">Handed over</dt>
          <dd class="text-right font-semibold">
            <NuxtLink class="makes" to="/reminders/handovers"
              >{{ card.handedOver.to }}, {{ shortDay(card.handedOver.on) }}</NuxtLink
            >
          </dd></template
        >
        <template v-if="card.broken"
          ><dt class="text-soft">Broke</dt>
          <dd class="wrong text-right">
            <NuxtLink class="makes" :to="`/promises?customer=${card.number}`"
              >{{ wholeText(card.broken.amount, card.broken.currency) }} {{ card.broken.currency }} for
              {{ shortDay(card.broken.date) }}</NuxtLink
            >
          </dd></template
        >
        <template v-if="card.promise"
          ><dt class="text-soft">Promised</dt>
          <dd class="text-right font-semibold">
            <NuxtLink class="makes" :to="`/promises?customer=${card.number}`"
              >{{ wholeText(card.promise.amount, card.promise.currency) }} {{ card.promise.currency }} for
              {{ shortDay(card.promise.date) }}</NuxtLink
            >
          </dd></template
        >
        <template v-if="card.disputed.count"
          ><dt class="text-soft">Disputed</dt>
          <dd class="text-right font-semibold">
            <NuxtLink class="makes" :to="`/disputes?customer=${card.number}`">{{
              wholeText(card.disputed.amount, card.base)
            }}</NuxtLink>
          </dd></template
        >
        <template v-if="card.call"
          ><dt class="text-soft">Last call</dt>
          <dd class="text-right">
            <NuxtLink class="makes" :to="`/accounts/${card.number}/timeline`"
              >{{ card.call.label.toLowerCase() }}, {{ shortDay(card.call.on) }}</NuxtLink
            >
          </dd></template
        >
        <template v-if="card.mail"
          ><dt class="text-soft">Inbox</dt>
          <dd class="text-right">
            <NuxtLink class="makes font-semibold" to="/inbox"
              >{{ card.mail }} {{ card.mail === 1 ? 'answer waits' : 'answers wait' }}</NuxtLink
            >
          </dd></template
        >
        <template v-for="p in card.pauses" :key="p.id"
          ><dt class="text-soft">Pause</dt>
          <dd class="text-right">
            <b class="font-semibold">until {{ dateText(p.until) }}</b
            ><br /><span class="cents">{{ p.item ? `${p.item}: ` : '' }}{{ p.reason }}</span>
          </dd></template
        >
      </dl>
      <hr class="my-2.5 border-rule" />
      <form v-if="noting" class="mb-2" @submit.prevent="saveNote">
        <textarea
          v-model="note"
          v-focus
          class="w-full border border-strong bg-sheet p-1.5"
          rows="3"
          aria-label="Note"
          @keydown.ctrl.enter="saveNote"
          @keydown.escape="noting = false"
        />
        <p v-if="trouble" class="wrong">{{ trouble }}</p>
        <button class="plain">Save the note <kbd>Ctrl ↵</kbd></button>
      </form>
      <div v-for="n in card.notes" :key="n.id" class="mb-1.5 border-l-2 border-strong pl-2 text-soft">
        <b class="font-semibold text-ink">{{ shortDay(n.date) }}, {{ n.by.split(' ')[0] }}.</b>
        <span v-if="n.pinned" class="aside">pinned</span> {{ n.text }}
      </div>
      <button
        v-if="!noting && session.can('notes.write')"
        class="plain flex w-full justify-between"
        @click="noting = true"
      >
        <span>Note</span><kbd>N</kbd>
      </button>
      <NuxtLink
        v-for="(a, i) in next"
        :key="a.label"
        :to="a.to"
        class="flex items-baseline justify-between gap-2 border-t border-rule py-[5px]"
        :title="a.why"
        ><span
          ><b class="font-semibold text-accent">{{ a.label }}</b
          ><br /><span class="aside">{{ a.why }}</span></span
        ><kbd>{{ i + 1 }}</kbd></NuxtLink
      >
    </template>
  </aside>
</template>
