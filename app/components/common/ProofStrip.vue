<script setup lang="ts">
import { computed } from 'vue'
import type { Proof } from '~~/contract/receipts'
import { amountText, kindText, proseText } from '~/utils/format'

/**
 * The Proof: what will be posted and what changes by it. The post button lives here, off with a reason until
 * all holds.
 */
const props = defineProps<{
  proof: Proof | null
  reason: string
  verb?: string
  busy: boolean
  after?: string
  labels: string[]
}>()
const emit = defineEmits<{ post: [] }>()
const base = computed(() => props.proof?.base ?? 'EUR')
const lines = computed(() => props.proof?.lines ?? [])
const oneCurrency = computed(() => {
  const all = [...new Set(lines.value.map(l => (l.amount ? l.currency : base.value)))]
  return all.length === 1 ? all[0] : ''
})
const off = computed(
  () =>
    props.reason ||
    (props.proof && !props.proof.ok ? proseText(props.proof.refusals.map(r => r.message).join('; ')) : ''),
)
</script>

<template>
  <section
    class="mt-auto grid max-h-[46%] min-h-[120px] flex-none grid-cols-[minmax(0,1.6fr)_minmax(262px,1fr)_auto] overflow-auto border-t-2 border-ink bg-sheet max-md:grid-cols-1"
    aria-label="Proof"
  >
    <div class="px-[18px] py-2">
      <h6 class="part-head mb-1">
        Proof<template v-if="oneCurrency">, {{ oneCurrency }}</template>
      </h6>
      <table v-if="lines.length" class="w-full max-w-[470px]" data-test="proof">
        <tbody>
          <tr v-for="l in lines" :key="l.account + l.note + l.currency">
            <td
              class="h-[21px] w-full max-w-0 truncate pr-2"
              :title="`${l.account} ${l.name}${l.note ? `, ${l.note}` : ''}`"
            >
              {{ l.account }} {{ l.name }}<span v-if="l.note" class="text-soft">, {{ l.note }}</span>
            </td>
            <td class="num h-[21px] w-[1%]">
              <template v-if="(l.amount || l.baseAmount) > 0"
                ><Figure :amount="l.amount || l.baseAmount" :currency="l.amount ? l.currency : base"
              /></template>
            </td>
            <td class="num h-[21px] w-[1%] pl-4">
              <template v-if="(l.amount || l.baseAmount) < 0"
                ><Figure :amount="-(l.amount || l.baseAmount)" :currency="l.amount ? l.currency : base"
              /></template>
            </td>
            <td v-if="!oneCurrency" class="aside w-[1%] pl-1.5">{{ l.amount ? l.currency : base }}</td>
          </tr>
        </tbody>
      </table>
      <p v-else-if="proof?.ok" class="text-soft">
        No money moves: both sides lie on the receivables account.
      </p>
      <p v-else class="hint">Debits and credits show here as soon as the figures hold.</p>
      <p v-for="w in proof?.warnings ?? []" :key="w" class="max-w-[420px]">
        <b class="font-semibold">Look twice:</b> {{ proseText(w) }}
      </p>
      <p v-for="l in proof?.links ?? []" :key="l.allocationId" class="text-soft">
        {{ ['discount', 'difference'].includes(l.kind) ? `${kindText(l.kind)} of ` : ''
        }}{{ amountText(l.amount, l.currency) }} taken back from {{ l.to }}
      </p>
    </div>
    <div class="py-2 pr-4">
      <h6 class="part-head mb-1">Changes</h6>
      <slot v-if="$slots.changes" name="changes" />
      <dl v-else-if="proof?.changes" class="grid max-w-[330px] grid-cols-[auto_1fr] gap-x-4 gap-y-0.5">
        <dt class="text-soft">Open</dt>
        <dd class="num font-semibold">
          {{ amountText(proof.changes.open[0], base) }} → {{ amountText(proof.changes.open[1], base) }}
        </dd>
        <dt class="text-soft">Strata</dt>
        <dd class="num">
          <Strata :amounts="proof.changes.strata[0]" :labels="labels" :currency="base" :width="64" /> →
          <Strata :amounts="proof.changes.strata[1]" :labels="labels" :currency="base" :width="64" />
        </dd>
        <template v-if="proof.changes.onAccount[0] !== proof.changes.onAccount[1]"
          ><dt class="text-soft">On account</dt>
          <dd class="num font-semibold">
            {{ amountText(-proof.changes.onAccount[0], base) }} →
            {{ amountText(-proof.changes.onAccount[1], base) }}
          </dd></template
        >
        <template v-if="proof.changes.headroom"
          ><dt class="text-soft">Headroom</dt>
          <dd class="num font-semibold">
            {{ amountText(proof.changes.headroom[0], base) }} →
            {{ amountText(proof.changes.headroom[1], base) }}
          </dd></template
        >
        <template v-if="proof.changes.exchange"
          ><dt class="text-soft">Exchange {{ proof.changes.exchange > 0 ? 'gain' : 'loss' }}</dt>
          <dd class="num font-semibold">
            {{ amountText(Math.abs(proof.changes.exchange), base) }}
          </dd></template
        >
      </dl>
      <p v-else-if="lines.length" class="hint">Shown where it is one account that changes.</p>
    </div>
    <div class="flex w-min min-w-[172px] flex-col justify-center gap-1.5 border-l border-rule px-[18px] py-2">
      <button
        class="go whitespace-nowrap"
        data-test="post"
        :disabled="Boolean(off) || busy || !proof?.ok"
        :aria-describedby="off ? 'post-off' : undefined"
        @click="emit('post')"
      >
        {{ verb ?? 'Post' }} <span class="font-normal opacity-70">Ctrl ↵</span>
      </button>
      <span id="post-off" :class="off ? 'text-soft' : 'hint'" aria-live="polite">{{
        off ? off.charAt(0).toUpperCase() + off.slice(1) : after
      }}</span>
    </div>
  </section>
</template>
