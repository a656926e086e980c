<script setup lang="ts">
import { computed, ref } from 'vue'
import { contract } from '~~/contract'
import type { Concentration, HeldRow } from '~~/contract/exposure'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { plural, proseText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** Accounts that are held, and who the money stands with. */
const desk = useDesk()
const session = useSession()
const { trouble, complain } = useGuard()
const {
  rows,
  loading,
  trouble: unread,
  reload,
} = usePages<HeldRow, { items: HeldRow[]; base: string; next: null }>(
  async () => ({ ...(await call(contract.exposure.holds)), next: null }),
  [],
)
const concentration = ref<Concentration | null>(null)
void fill(concentration, () => call(contract.exposure.concentration)).catch(complain)
const go = (r: { customer: { number: string } }) =>
  navigateTo(`/exposure/${encodeURIComponent(r.customer.number)}`)
const total = computed(() => rows.value.reduce((sum, r) => sum + Math.max(0, r.exposure), 0))
const file = ref<HTMLInputElement | null>(null)
async function takeOrders(chosen: File | undefined): Promise<void> {
  if (!chosen) return
  try {
    const result = await call(contract.imports.orders, { body: await chosen.text() })
    desk.say({
      text: `${plural(result.imported, 'order')} added, ${result.updated} changed.`,
    })
    await reload()
  } catch (error) {
    complain(error)
  }
}
useKeys([
  {
    key: 'u',
    label: 'Take in a file of orders',
    when: () => session.can('import'),
    run: () => file.value?.click(),
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Exposure</h1>
    <span v-if="rows.length" class="text-soft">{{ plural(rows.length, 'account') }} held</span>
    <span class="ml-auto flex gap-4">
      <template v-if="session.can('import')"
        ><button class="plain" @click="file?.click()">Orders from a file <kbd>U</kbd></button
        ><input
          ref="file"
          type="file"
          accept=".csv,text/csv"
          class="sr-only"
          tabindex="-1"
          aria-label="File of orders"
          @change="takeOrders(($event.target as HTMLInputElement).files?.[0])"
      /></template>
    </span>
  </div>
  <p v-if="trouble || unread" class="wrong px-[18px]" role="alert">{{ trouble || unread }}</p>
  <ConcentrationPicture
    v-if="concentration"
    :of="concentration"
    @open="n => navigateTo(`/exposure/${encodeURIComponent(n)}`)"
  />
  <SheetTable
    :columns="[
      { key: 'name', label: 'Held account', width: 210 },
      { key: 'why', label: 'Held for', cut: true },
      { key: 'waits', label: 'Waits for', width: 150 },
      { key: 'exposure', label: `Exposure, ${session.base}`, num: true, width: 112 },
      { key: 'limit', label: 'Limit', num: true, width: 96, gives: 1 },
    ]"
    :rows="rows"
    :row-key="r => r.customer.number"
    :loading="loading"
    label="Held accounts"
    @cursor="r => desk.choose(r.customer.number)"
    @open="go"
  >
    <template #cell-name="{ row }"
      ><NuxtLink
        class="name makes"
        tabindex="-1"
        :to="`/exposure/${encodeURIComponent(row.customer.number)}`"
        >{{ row.customer.name }}</NuxtLink
      ></template
    >
    <template #cell-why="{ row }"
      ><span :title="proseText(row.holds.map(h => h.words).join('; '))">{{
        row.holds.map(h => h.label).join(', ')
      }}</span>
      <span class="hint ml-1.5">{{ proseText(row.holds[0]!.words) }}</span></template
    >
    <template #cell-waits="{ row }"
      ><NuxtLink v-if="row.waiting" class="makes" :to="`/sign-off?id=${row.waiting}`">a signature</NuxtLink
      ><template v-else-if="row.holds.every(h => h.toPay)"
        >payment of
        <Figure
          :amount="Math.max(...row.holds.map(h => h.toPay ?? 0))"
          :currency="session.base"
          whole /></template
      ><template v-else>a release</template></template
    >
    <template #cell-exposure="{ row }"
      ><Figure :amount="row.exposure" :currency="session.base" whole cr
    /></template>
    <template #cell-limit="{ row }"
      ><Figure v-if="row.limit !== null" :amount="row.limit" :currency="session.base" whole zero /><span
        v-else
        class="none"
        >·</span
      ></template
    >
    <template #foot
      ><tr>
        <td colspan="3">{{ plural(rows.length, 'held account') }}</td>
        <td class="num"><Figure :amount="total" :currency="session.base" whole zero /></td>
        <td /></tr
    ></template>
    <template #empty>No account is held. Rules that hold accounts stand in Setup, under Credit.</template>
  </SheetTable>
</template>
