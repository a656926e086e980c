<script setup lang="ts">
import { computed, ref } from 'vue'
import { contract } from '~~/contract'
import type { ExposureAnswer, ExposureMakeUp } from '~~/contract/exposure'
import { useDesk } from '~/stores/desk'
import { call, problemText } from '~/utils/api'
import { dateText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** The parts of an exposure, adding up to it, each opening into what it is made of; the group's beside. */
const props = defineProps<{ exposure: ExposureAnswer }>()
const desk = useDesk()
type Part = keyof ExposureAnswer['account']['parts']
const PARTS: { key: Part; label: string; what: string }[] = [
  { key: 'receivables', label: 'Open receivables', what: 'invoices, debit notes and fees' },
  { key: 'onAccount', label: 'Credit on account', what: 'receipts and credit notes not allocated' },
  { key: 'delivered', label: 'Delivered, not invoiced', what: '' },
  { key: 'orders', label: 'Open orders', what: 'neither delivered nor invoiced' },
  {
    key: 'notFinal',
    label: 'Receipts not yet final',
    what: 'cheques the bank has not shown, direct debits that may still come back',
  },
  { key: 'secured', label: 'Insured', what: 'at most what there is' },
]
const opened = ref<Part | ''>('')
const made = ref<ExposureMakeUp | null>(null)
const trouble = ref('')
const base = computed(() => props.exposure.base)

async function open(part: Part): Promise<void> {
  const { number, name } = props.exposure
  if (part === 'receivables' || part === 'onAccount') {
    desk.makeUp = {
      title: `${name}, ${part === 'onAccount' ? 'on account' : 'open'}`,
      why:
        part === 'receivables'
          ? 'Credits on account are shown as they are; the debits add up to the part.'
          : undefined,
      query: { by: 'customer', key: number, bucket: part === 'onAccount' ? 'onAccount' : 'all' },
    }
    return
  }
  if (part === 'secured') return
  opened.value = opened.value === part ? '' : part
  made.value = null
  if (!opened.value) return
  try {
    await fill(made, () => call(contract.exposure.makeUp, { params: { number }, query: { part } }))
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  }
}
</script>

<template>
  <table class="grid-table flush" data-test="parts">
    <thead>
      <tr>
        <th>{{ exposure.name }}</th>
        <th class="num">This account, {{ base }}</th>
        <th v-if="exposure.group" class="num">
          Group of {{ exposure.group.head.name }}, {{ exposure.group.members }}
        </th>
      </tr>
    </thead>
    <tbody>
      <template v-for="p in PARTS" :key="p.key"
        ><tr>
          <td class="w-full">
            {{ p.label }} <span class="hint ml-1.5">{{ p.what }}</span>
          </td>
          <td class="num">
            <button
              v-if="exposure.account.parts[p.key] && p.key !== 'secured'"
              class="makes"
              :aria-expanded="opened === p.key"
              @click="open(p.key)"
            >
              <Figure :amount="exposure.account.parts[p.key]" :currency="base" /></button
            ><Figure v-else :amount="exposure.account.parts[p.key]" :currency="base" />
          </td>
          <td v-if="exposure.group" class="num">
            <Figure :amount="exposure.group.parts[p.key]" :currency="base" />
          </td>
        </tr>
        <tr v-if="opened === p.key">
          <td :colspan="exposure.group ? 3 : 2" class="!h-auto bg-row !py-2">
            <p v-if="trouble" class="wrong">{{ trouble }}</p>
            <table v-if="made" class="ml-4">
              <tbody>
                <tr v-for="i in made.items" :key="i.number">
                  <td class="!h-6 !border-0 pr-4">{{ i.number }}</td>
                  <td class="!h-6 !border-0 pr-4">{{ dateText(i.date) }}</td>
                  <td class="num !h-6 !border-0 pr-4">
                    <template v-if="i.currency !== base"
                      ><Figure :amount="i.documentAmount" :currency="i.currency" />
                      <span class="aside">{{ i.currency }}</span></template
                    >
                  </td>
                  <td class="num !h-6 !border-0"><Figure :amount="i.amount" :currency="base" /></td>
                </tr>
              </tbody>
            </table>
          </td></tr
      ></template>
    </tbody>
    <tfoot>
      <tr>
        <td>Exposure</td>
        <td class="num" data-test="exposure-total">
          <Figure :amount="exposure.account.total" :currency="base" zero />
        </td>
        <td v-if="exposure.group" class="num">
          <Figure :amount="exposure.group.total" :currency="base" zero />
        </td>
      </tr>
      <tr class="font-normal">
        <td class="!font-normal text-soft">
          Limit in force<template v-if="exposure.terms.until">
            until {{ dateText(exposure.terms.until) }}</template
          >
        </td>
        <td class="num">
          <Figure
            v-if="exposure.account.limit !== null"
            :amount="exposure.account.limit"
            :currency="base"
            zero
          /><span v-else class="hint font-normal">none</span>
        </td>
        <td v-if="exposure.group" class="num">
          <Figure
            v-if="exposure.group.limit !== null"
            :amount="exposure.group.limit"
            :currency="base"
            zero
          /><span v-else class="hint font-normal">none</span>
        </td>
      </tr>
      <tr v-if="exposure.account.headroom !== null || exposure.group?.headroom != null">
        <td class="!font-normal text-soft">
          Headroom<template v-if="exposure.account.used !== null"
            >, {{ exposure.account.used }} % used</template
          >
        </td>
        <td class="num">
          <span
            v-if="exposure.account.headroom !== null"
            :class="exposure.account.headroom < 0 ? 'wrong' : ''"
            ><Figure :amount="exposure.account.headroom" :currency="base" zero
          /></span>
        </td>
        <td v-if="exposure.group" class="num">
          <span v-if="exposure.group.headroom !== null" :class="exposure.group.headroom < 0 ? 'wrong' : ''"
            ><Figure :amount="exposure.group.headroom" :currency="base" zero
          /></span>
        </td>
      </tr>
    </tfoot>
  </table>
</template>
