<script setup lang="ts">
import type { BankLineDetail, LineProposal } from '~~/contract/banking/lines'
import { computed } from 'vue'
import { proseText, timeText } from '~/utils/format'

/** The line under the cursor: all it says, what it may be, or what it became. */
const props = defineProps<{
  line: BankLineDetail
  proposals: readonly LineProposal[]
  chosen: number
  mayUndo: boolean
}>()
const emit = defineEmits<{ choose: [n: number] }>()
const undoing = defineModel<boolean>('undoing')
const reason = defineModel<string>('reason')

/** What banks did to the money on its way, in their own figures. */
const told = computed(() => {
  const { instructed, rate, charges = [] } = props.line.details ?? {}
  return [
    instructed && `ordered ${instructed.currency} ${instructed.amount}`,
    rate && `rate ${rate}`,
    ...charges.map(c => `charges ${c.currency} ${c.amount}`),
  ]
})
/** One decimal where it tells something: 99.7 is not 100. */
const percent = (confidence: number) => Math.floor(confidence * 1000) / 10
</script>

<template>
  <section
    class="grid max-h-[150px] flex-none grid-cols-[minmax(0,5fr)_minmax(0,7fr)] gap-6 overflow-auto border-t border-strong px-[18px] py-2"
    aria-label="The line"
    data-test="line"
    :data-line="line.id"
  >
    <div>
      <p>
        <b class="font-semibold">{{ line.name || 'No name' }}</b>
        {{ ' ' }}
        <span class="text-soft">{{ line.iban }}</span>
      </p>
      <p class="break-words">{{ line.text || 'no text' }}</p>
      <p v-for="r in line.details?.remittance ?? []" :key="r.number" class="tabular-nums">
        {{ r.credit ? 'less' : 'for' }} {{ r.number }}
        <Figure :amount="r.paid" :currency="line.currency" /><span v-if="r.discount" class="text-soft"
          >, discount <Figure :amount="r.discount" :currency="line.currency" /></span
        ><span v-if="r.adjusted" class="text-soft"
          >, kept back <Figure :amount="r.adjusted" :currency="line.currency" /> {{ r.reason }}</span
        >
      </p>
      <p class="aside">
        {{
          [
            line.ultimate && `on behalf of ${line.ultimate}`,
            ...told,
            line.reference && `reference ${line.reference}`,
            line.endToEndId && `end to end ${line.endToEndId}`,
            line.returnReason && `returned ${line.returnReason}`,
            line.code,
            `bank ${line.bankReference}`,
            `${line.bankAccount.name}, statement ${line.statement}`,
          ]
            .filter(Boolean)
            .join(' · ')
        }}
      </p>
    </div>
    <div v-if="line.state === 'open'">
      <p v-if="line.tie" class="wrong">Equally good answers: choose one with <kbd>P</kbd></p>
      <p v-if="line.asks" class="text-soft">Yours to decide, however sure it is what happened</p>
      <p v-if="line.held" class="text-soft">{{ proseText(line.held) }}</p>
      <ol v-if="proposals.length" role="radiogroup" aria-label="Proposals">
        <li v-for="(p, n) in proposals" :key="n" class="flex gap-2 py-0.5">
          <button
            role="radio"
            :aria-checked="n === chosen"
            class="flex min-w-0 gap-2 text-left"
            :class="n === chosen ? '' : 'text-soft'"
            @click="emit('choose', n)"
          >
            <span class="w-3 flex-none font-semibold" :class="n === chosen ? 'text-accent' : 'text-faint'">{{
              n === chosen ? '›' : n + 1
            }}</span><span class="min-w-0"
              ><b class="font-semibold">{{ p.told }}</b>
              {{ ' ' }}
              <span class="aside">{{ percent(p.confidence) }} %</span><br /><span class="text-soft">{{
                proseText(p.reasons.join('; '))
              }}</span></span
            >
          </button>
        </li>
      </ol>
      <p v-else class="hint">Nothing we know makes this amount or names this payer.</p>
      <NuxtLink class="plain" :to="`/banking/${line.id}`">Say what it is instead <kbd>↵</kbd></NuxtLink>
    </div>
    <div v-else>
      <p v-for="h in line.history" :key="h.entry">
        {{ h.told }}
        <span class="aside"
          >{{ h.by }}, {{ timeText(h.at) }}, journal
          <NuxtLink class="makes" :to="`/books/journal?number=${h.entry}`">{{ h.entry }}</NuxtLink></span
        ><template v-if="h.undone"
          ><br /><span class="wrong">Unmatched</span> {{ h.undone.reason }}
          <span class="aside">{{ h.undone.by }}, {{ timeText(h.undone.at) }}</span></template
        >
      </p>
      <p v-if="line.match">
        <NuxtLink
          v-for="r in line.match.receipts"
          :key="r.id"
          class="makes mr-3 text-accent"
          :to="`/receipts/${r.id}`"
          >{{ r.number }} {{ r.customer.name }}</NuxtLink
        >
      </p>
      <input
        v-if="undoing"
        v-model="reason"
        v-focus
        class="field mt-1 w-[300px]"
        placeholder="Why is it unmatched"
        aria-label="Reason"
        maxlength="200"
      />
      <button v-else-if="mayUndo" class="plain" @click="undoing = true">Unmatch <kbd>U</kbd></button>
    </div>
  </section>
</template>
