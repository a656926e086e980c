<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { FAULTS, RESOLUTIONS, type Resolution } from '~~/core/disputes'
import { contract } from '~~/contract'
import type { DisputeRow } from '~~/contract/disputes'
import type { Proof } from '~~/contract/receipts'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { useDesk } from '~/stores/desk'
import { call, problemText } from '~/utils/api'
import { dateText, plural, proseText } from '~/utils/format'

/** A dispute: what it is about, and its end, with what that would post before it is posted. */
const props = defineProps<{ row: DisputeRow; may: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const desk = useDesk()
const ending = ref<Resolution | ''>('')
const amounts = reactive(new Map<number, number | null>())
const words = ref('')
const letter = ref(true)
const proof = ref<Proof | null>(null)
const { trouble, complain } = useGuard()
const busy = ref(false)
watch(
  () => [props.row.id, props.row.version],
  () => {
    ending.value = ''
    words.value = ''
    proof.value = null
    trouble.value = ''
  },
)
function begin(how: Resolution): void {
  ending.value = how
  amounts.clear()
  for (const i of props.row.items) {
    const most = Math.min(i.amount, i.open)
    amounts.set(i.id, how === 'settled' ? Math.floor(most / 2) : most)
  }
}
const given = computed(() => [...amounts].flatMap(([itemId, amount]) => (amount ? [{ itemId, amount }] : [])))
const asked = () => ({
  version: props.row.version,
  resolution: ending.value as Resolution,
  amounts: ending.value === 'upheld' ? [] : given.value,
  text: words.value,
})
let last = 0
watch([ending, given], async () => {
  const mine = ++last
  if (!ending.value || ending.value === 'upheld') {
    proof.value = null
    return
  }
  try {
    const shown = await call(contract.disputes.proof, {
      params: { id: props.row.id },
      body: asked(),
    })
    if (mine === last) proof.value = shown
  } catch (error) {
    if (mine === last) complain(error)
  }
})
const off = computed(() => {
  if (busy.value) return 'on its way'
  if (ending.value === 'upheld') return ''
  if (!proof.value) return 'looking at what it would post'
  const [first] = proof.value.refusals
  return first ? `${first.message}: ${first.satisfy}` : ''
})
async function resolve(): Promise<void> {
  if (off.value) return
  busy.value = true
  try {
    const { waiting } = await call(contract.disputes.resolve, {
      params: { id: props.row.id },
      key: crypto.randomUUID(),
      body: { ...asked(), letter: ending.value === 'upheld' && letter.value },
    })
    desk.say(
      waiting === null
        ? { text: `${RESOLUTIONS[ending.value as Resolution]}: the dispute is resolved.` }
        : { text: 'It waits for a second person.', to: `/sign-off?id=${waiting}`, action: 'See it' },
    )
    ending.value = ''
    emit('changed')
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
useKeys([
  {
    key: 'Ctrl+Enter',
    label: 'Resolve it so',
    inFields: true,
    when: () => ending.value !== '',
    run: () => void resolve(),
  },
  {
    key: 'Escape',
    label: '',
    inFields: true,
    when: () => ending.value !== '',
    run: () => {
      ending.value = ''
    },
  },
])
defineExpose({ begin })
const WAYS = [
  ['credited', 'Credit it', 'C'],
  ['settled', 'Credit a part', 'P'],
  ['written-off', 'Write it off', 'W'],
  ['upheld', 'Uphold it', 'U'],
] as const
</script>

<template>
  <section
    class="grid max-h-[280px] grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)_170px] border-t border-strong bg-paper"
    aria-label="The dispute"
    data-test="dispute"
  >
    <div class="overflow-auto px-[18px] py-3">
      <p v-if="row.text">“{{ row.text }}”</p>
      <p class="text-soft">
        Opened {{ dateText(row.openedOn) }}, seen to by {{ row.owner.name }} until
        {{ dateText(row.deadline) }}. Fault: {{ FAULTS[row.fault].toLowerCase()
        }}<template v-if="row.receipt"
          >. Claimed by
          <NuxtLink class="makes" :to="`/receipts/${row.receipt.id}`">{{
            row.receipt.number
          }}</NuxtLink></template
        >.
      </p>
      <p v-if="row.resolved" class="mt-1">
        <b class="font-semibold">{{ RESOLUTIONS[row.resolution as Resolution] }}</b> on
        {{ dateText(row.resolved.on) }} by {{ row.resolved.by
        }}<template v-if="row.resolved.text">: {{ row.resolved.text }}</template>
      </p>
      <table class="grid-table flush mt-1.5" aria-label="Disputed items">
        <tbody>
          <tr v-for="i in row.items" :key="i.id">
            <td class="!h-[26px]">{{ i.number }}</td>
            <td class="num !h-[26px] text-soft">
              <Figure :amount="i.open" :currency="row.currency" zero /> open
            </td>
            <td class="num !h-[26px]">
              <Figure :amount="i.amount" :currency="row.currency" /> {{ row.currency }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <form
      class="flex flex-col gap-2 overflow-auto border-l border-rule px-[18px] py-3"
      @submit.prevent="resolve"
    >
      <template v-if="ending">
        <h6 class="part-head">{{ RESOLUTIONS[ending] }}</h6>
        <p v-for="i in ending === 'upheld' ? [] : row.items" :key="i.id" class="flex items-baseline gap-2">
          <span class="w-[110px]">{{ i.number }}</span><MoneyField
            :model-value="amounts.get(i.id) ?? null"
            :currency="row.currency"
            :label="`Given up of ${i.number}`"
            @update:model-value="v => amounts.set(i.id, v)"
          />
          {{ row.currency }}
        </p>
        <label v-if="ending === 'upheld'" class="flex min-h-6 items-center gap-1.5"
          ><input v-model="letter" type="checkbox" class="tick" /> tell the customer by letter</label
        >
        <input
          v-model="words"
          v-focus
          class="field"
          maxlength="500"
          placeholder="What was found"
          aria-label="What was found"
        />
        <table v-if="proof?.lines.length" aria-label="What it posts">
          <tbody>
            <tr v-for="(l, n) in proof.lines" :key="n">
              <td class="pr-3 text-soft">{{ l.account }} {{ l.name }}</td>
              <td class="num"><Figure :amount="l.amount" :currency="l.currency" /></td>
            </tr>
          </tbody>
        </table>
        <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
      </template>
      <p v-else-if="row.waiting" class="text-soft">
        How it ends waits for a second person.
        <NuxtLink class="plain" :to="`/sign-off?id=${row.waiting}`">See it</NuxtLink>
      </p>
      <p v-else-if="row.resolution === ''" class="text-soft">
        {{ plural(row.items.length, 'item') }}, not reminded of while this is open. How does it end?
      </p>
    </form>
    <div class="flex flex-col gap-1 border-l border-rule px-[18px] py-3">
      <template v-if="ending"
        ><button class="go" :disabled="Boolean(off)" data-test="resolve" @click="resolve">
          Resolve <span class="font-normal opacity-70">Ctrl ↵</span></button
        ><span v-if="off" class="hint">{{ proseText(off) }}</span
        ><button class="plain text-left" @click="ending = ''">Leave <kbd>Esc</kbd></button></template
      ><template v-else-if="may"
        ><button v-for="[how, label, key] in WAYS" :key="how" class="plain text-left" @click="begin(how)">
          {{ label }} <kbd>{{ key }}</kbd>
        </button></template
      >
    </div>
  </section>
</template>
