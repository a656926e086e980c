<script setup lang="ts">
import {
  Archive,
  ArrowLeftRight,
  BookOpen,
  CalendarDays,
  CalendarRange,
  ChartNoAxesCombined,
  ClipboardCheck,
  FileInput,
  FileX2,
  Handshake,
  Footprints,
  Gauge,
  HandCoins,
  Inbox,
  Landmark,
  Layers,
  Layers2,
  ListChecks,
  ListTree,
  Mails,
  MessageSquare,
  PanelLeftClose,
  PanelLeftOpen,
  PenLine,
  Phone,
  ReceiptText,
  Scale,
  Send,
  Settings2,
  Undo2,
  Users,
} from 'lucide-vue-next'
import { useIntervalFn } from '@vueuse/core'
import { computed } from 'vue'
import type { Ability } from '~~/core/people'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'

defineProps<{ phone?: boolean }>()
const desk = useDesk()
const session = useSession()
interface Way {
  to: string
  label: string
  icon: typeof Layers
  needs: Ability
  also?: string
  /** How much waits there. */
  counts?: () => number
}
const groups: { head: string; ways: Way[] }[] = [
  {
    head: '',
    ways: [
      { to: '/', label: 'Today', icon: CalendarDays, needs: 'read' },
      { to: '/sign-off', label: 'Sign-off', icon: PenLine, needs: 'books.read' },
      {
        to: '/messages',
        label: 'Messages',
        icon: MessageSquare,
        needs: 'read',
        counts: () => desk.unread.messages,
      },
    ],
  },
  {
    head: 'Cash',
    ways: [
      { to: '/banking', label: 'Bank', icon: Landmark, needs: 'books.read' },
      { to: '/receipts', label: 'Receipts', icon: ReceiptText, needs: 'books.read' },
      { to: '/receipts/batches', label: 'Batches', icon: Layers2, needs: 'books.read' },
      { to: '/receipts/tick-sheet', label: 'Tick sheet', icon: ListChecks, needs: 'receipts.post' },
      { to: '/banking/tray', label: 'Tray', icon: Archive, needs: 'books.read' },
      { to: '/collections', label: 'Collections', icon: HandCoins, needs: 'books.read' },
    ],
  },
  {
    head: 'Chase',
    ways: [
      { to: '/call-list', label: 'Call list', icon: Phone, needs: 'read' },
      { to: '/disputes', label: 'Disputes', icon: Scale, needs: 'read' },
      { to: '/reminders', label: 'Reminders', icon: Mails, needs: 'books.read' },
      { to: '/inbox', label: 'Inbox', icon: Inbox, needs: 'read', counts: () => desk.unread.mail },
      { to: '/outbox', label: 'Outbox', icon: Send, needs: 'books.read' },
    ],
  },
  {
    head: 'Position',
    ways: [
      { to: '/aging', label: 'Aging', icon: Layers, needs: 'read' },
      { to: '/exposure', label: 'Exposure', icon: Gauge, needs: 'read' },
      { to: '/forecast', label: 'Forecast', icon: CalendarRange, needs: 'books.read' },
      { to: '/review', label: 'Review', icon: ClipboardCheck, needs: 'books.read' },
      { to: '/measures', label: 'Measures', icon: ChartNoAxesCombined, needs: 'read' },
      { to: '/accounts', label: 'Accounts', icon: Users, needs: 'read' },
    ],
  },
  {
    head: 'Settle',
    ways: [
      { to: '/refunds', label: 'Refunds', icon: Undo2, needs: 'books.read' },
      { to: '/factoring', label: 'Factoring', icon: Handshake, needs: 'books.read' },
      { to: '/impairment', label: 'Bad debts', icon: FileX2, needs: 'books.read' },
    ],
  },
  {
    head: 'Books',
    ways: [
      { to: '/books/journal', label: 'Journal', icon: BookOpen, needs: 'books.read' },
      { to: '/books/trial-balance', label: 'Trial balance', icon: ListTree, needs: 'books.read' },
      { to: '/books/audit', label: 'Audit trail', icon: Footprints, needs: 'audit.read' },
    ],
  },
  {
    head: 'Setup',
    ways: [
      { to: '/documents/import', label: 'Import', icon: FileInput, needs: 'import' },
      { to: '/rates', label: 'Rates', icon: ArrowLeftRight, needs: 'read' },
      { to: '/setup/company', label: 'Setup', icon: Settings2, needs: 'read' },
    ],
  },
]
// A word of a colleague, or a mail, is seen within a minute wherever one is.
void desk.countUnread()
useIntervalFn(() => void desk.countUnread(), 60_000)
const shown = computed(() =>
  groups.map(g => ({ ...g, ways: g.ways.filter(w => session.can(w.needs)) })).filter(g => g.ways.length),
)
const route = useRoute()
/** The way whose path is the longest beginning of where we are. */
const here = computed(
  () =>
    groups
      .flatMap(g => g.ways.map(w => w.to))
      .filter(to => (to === '/' ? route.path === '/' : route.path.startsWith(to)))
      .sort((a, b) => b.length - a.length)[0],
)
const isOn = (to: string) => here.value === to
</script>

<template>
  <nav v-if="phone" class="flex items-stretch border-t border-strong bg-paper" aria-label="Main">
    <NuxtLink
      v-for="way in [
        { to: '/', label: 'Today' },
        { to: '/call-list', label: 'Call list' },
        { to: '/accounts', label: 'Accounts' },
      ]"
      :key="way.to"
      :to="way.to"
      class="flex flex-1 items-center justify-center text-soft"
      :class="isOn(way.to) ? 'font-semibold !text-ink' : ''"
      >{{ way.label }}</NuxtLink
    >
  </nav>
  <nav v-else class="flex flex-col overflow-y-auto border-r border-rule py-2 pl-[14px]" aria-label="Main">
    <template v-for="g in shown" :key="g.head">
      <p v-if="g.head && !desk.railFolded" class="part-head mt-1">{{ g.head }}</p>
      <NuxtLink
        v-for="way in g.ways"
        :key="way.to"
        :to="way.to"
        :title="desk.railFolded ? way.label : undefined"
        class="-ml-2 flex items-center gap-2 border-l-2 border-transparent py-[3px] pl-2 text-soft hover:text-ink"
        :class="isOn(way.to) ? '!border-accent font-semibold !text-ink' : ''"
        :aria-current="isOn(way.to) ? 'page' : undefined"
      >
        <component :is="way.icon" :size="14" :stroke-width="1.6" aria-hidden="true" /><span
          :class="desk.railFolded ? 'sr-only' : ''"
          >{{ way.label }}</span
        ><span
          v-if="way.counts?.()"
          class="ml-auto mr-2 font-semibold"
          :class="desk.unreadTrouble ? 'text-faint' : 'text-accent'"
          :aria-label="`${way.counts()} waiting${desk.unreadTrouble ? ', as counted before' : ''}`"
          :title="desk.unreadTrouble && `Counted before: ${desk.unreadTrouble}`"
          >{{ way.counts() }}</span
        >
      </NuxtLink>
    </template>
    <button
      class="-ml-2 mt-auto flex min-h-7 shrink-0 items-center gap-2 py-1 pl-2 text-faint"
      :aria-label="desk.railFolded ? 'Unfold the rail' : 'Fold the rail'"
      @click="desk.railFolded = !desk.railFolded"
    >
      <component :is="desk.railFolded ? PanelLeftOpen : PanelLeftClose" :size="14" :stroke-width="1.6" />
    </button>
  </nav>
</template>
