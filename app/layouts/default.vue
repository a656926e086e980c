<script setup lang="ts">
import { useWindowSize } from '@vueuse/core'
import { computed, watch } from 'vue'
import { useKeys } from '~/composables/keys'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { problemText } from '~/utils/api'
import { dateText, weekdayText } from '~/utils/format'

const desk = useDesk()
const session = useSession()
const route = useRoute()
const { width } = useWindowSize()
const narrow = computed(() => width.value < 720)
/** Beside the sheet there is room for the Card from here on; below, it is drawn over it when asked for. */
const CARD_BESIDE = 1180
const beside = computed(() => width.value >= CARD_BESIDE)
const hasCard = computed(() => desk.customer !== null && !narrow.value && !route.meta.noCard)
const showCard = computed(() => hasCard.value && beside.value && desk.cardOpen)
const drawCard = computed(() => hasCard.value && !beside.value && desk.cardDrawn)
watch(
  () => route.path,
  (to, from) => {
    // The Card stays with the customer from screen to screen, but Setup and the like have none.
    if (to !== from) {
      desk.makeUp = null
      desk.cardDrawn = false
    }
  },
)
watch(
  () => session.session,
  s => {
    if (!s && route.path !== '/sign-in') void navigateTo('/sign-in')
  },
)

/**
 * The day passes: the bank, the mailbox and the others answer; every screen is read anew. A day that cannot
 * close says why.
 */
async function advance(): Promise<void> {
  try {
    await session.advance()
    reloadNuxtApp()
  } catch (error) {
    desk.say({ text: problemText(error), bad: true })
  }
}
useKeys([
  {
    key: '?',
    label: 'Keys of this screen',
    run: () => {
      desk.keysShown = true
    },
  },
  {
    key: 'b',
    label: 'Show or hide the Card',
    run: () => {
      if (beside.value) desk.cardOpen = !desk.cardOpen
      else desk.cardDrawn = !desk.cardDrawn
    },
  },
  {
    key: 'i',
    label: 'New receipt',
    when: () => session.can('receipts.post'),
    run: () => navigateTo(`/receipts/new${desk.customer ? `?customer=${desk.customer}` : ''}`),
  },
])
</script>

<template>
  <NuxtPage v-if="$route.path === '/sign-in'" />
  <div
    v-else
    class="grid h-full"
    :class="narrow ? 'grid-rows-[44px_1fr_44px]' : 'grid-rows-[44px_1fr]'"
    :style="{
      gridTemplateColumns: narrow
        ? '1fr'
        : `${desk.railFolded ? '52px' : '140px'} minmax(0,1fr) ${showCard ? '288px' : ''}`,
    }"
  >
    <header class="col-span-full flex items-center gap-4 border-b border-strong px-[18px]">
      <NuxtLink
        to="/"
        class="flex items-center gap-2 font-serif text-[19px] font-semibold"
        :class="narrow ? '' : 'w-[112px]'"
        aria-label="Bilancio, Today"
      >
        <i class="grid w-[15px] gap-[1.5px]" aria-hidden="true"
          ><b
            v-for="n in [1, 3, 5]"
            :key="n"
            class="block h-[3px]"
            :style="{ background: `var(--age-${n})` }" /></i
        ><span v-if="!narrow">Bilancio</span>
      </NuxtLink>
      <JumpBox class="min-w-0 flex-1 max-w-[400px]" />
      <span v-if="!narrow" class="ml-auto truncate text-soft"
        >{{ session.settings?.company }} · {{ weekdayText(session.today) }} {{ dateText(session.today)
        }}<template v-if="session.settings?.demo && session.can('clock.advance')">
          · <button class="plain !py-0" data-test="advance" @click="advance">advance a day</button></template
        ></span
      >
      <button
        v-if="hasCard && !beside"
        class="plain"
        :aria-expanded="drawCard"
        @click="desk.cardDrawn = !desk.cardDrawn"
      >
        Card <kbd>B</kbd>
      </button>
      <PersonMenu />
    </header>
    <SideRail v-if="!narrow" />
    <main id="sheet" class="flex min-h-0 min-w-0 flex-col bg-sheet"><slot /></main>
    <CustomerCard v-if="showCard" />
    <div
      v-if="drawCard"
      class="drawer fixed bottom-0 right-0 top-[44px] z-30 flex w-[300px]"
      data-test="card-drawer"
    >
      <CustomerCard class="w-full" />
    </div>
    <SideRail v-if="narrow" class="order-last" phone />
    <MakeUpDrawer />
    <TieOutDrawer />
    <KeysHelp />
    <SendStrip />
    <SaidBar />
  </div>
</template>
