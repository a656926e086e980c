<script setup lang="ts">
import type { PartAnswer } from '~~/contract/measures'
import { useDesk } from '~/stores/desk'
import { dateText, kindText, plural } from '~/utils/format'

/** The items that a part of a measure is made of, adding up to it. */
defineProps<{ title: string; items: PartAnswer; isPaid: boolean }>()
const desk = useDesk()
</script>

<template>
  <section data-test="part-items">
    <h6 class="part-head mb-1 border-b border-rule pb-1">
      {{ title }}: {{ plural(items.count, isPaid ? 'payment' : 'item')
      }}<template v-if="items.count > items.items.length">, the largest {{ items.items.length }}</template>
    </h6>
    <table class="grid-table flush">
      <thead>
        <tr>
          <th>Item</th>
          <th>Customer</th>
          <th>{{ isPaid ? 'Paid on' : 'Posted' }}</th>
          <th class="num">Days late</th>
          <th class="num">{{ items.base }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(i, n) in items.items" :key="n">
          <td>
            <NuxtLink
              class="makes"
              :to="`/accounts/${encodeURIComponent(i.customer.number)}?state=all&find=${i.number}`"
              >{{ i.number }}</NuxtLink
            >
            <span class="aside ml-1.5">{{ kindText(i.kind) }}</span>
          </td>
          <td class="cut w-full">
            <button class="makes" @click="desk.choose(i.customer.number)">{{ i.customer.name }}</button>
          </td>
          <td>{{ dateText(i.date) }}</td>
          <td class="num">
            <template v-if="i.daysLate > 0">{{ i.daysLate }}</template><span v-else class="cents">{{
              i.daysLate === 0 ? '0' : `−${-i.daysLate}`
            }}</span>
          </td>
          <td class="num"><Figure :amount="i.amount" :currency="items.base" /></td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td colspan="4">{{ plural(items.count, isPaid ? 'payment' : 'item') }}</td>
          <td class="num" data-test="part-total">
            <Figure :amount="items.total" :currency="items.base" zero />
          </td>
        </tr>
      </tfoot>
    </table>
  </section>
</template>
