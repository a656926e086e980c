<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { TieOut } from '~~/contract/books'
import { useFocusBack } from '~/composables/focus'
import { useDesk } from '~/stores/desk'
import { call, problemText } from '~/utils/api'
import { dateText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** The tie-out: open items beside the control account, by currency and in base. */
const desk = useDesk()
useFocusBack(() => desk.tieOut !== null)
const answer = ref<TieOut | null>(null)
const trouble = ref('')
watch(
  () => desk.tieOut,
  async asOf => {
    answer.value = null
    trouble.value = ''
    if (!asOf) return
    try {
      await fill(answer, () => call(contract.books.tieOut, { query: { asOf } }))
    } catch (error) {
      trouble.value = problemText(error)
    }
  },
)
</script>

<template>
  <Dialog :open="desk.tieOut !== null" class="relative z-40" @close="desk.tieOut = null">
    <div class="fixed inset-0 bg-black/15" aria-hidden="true" />
    <DialogPanel class="drawer fixed inset-y-0 right-0 w-[640px] max-w-full overflow-auto" tabindex="0">
      <div class="flex items-baseline px-[18px] pb-2 pt-[14px]">
        <DialogTitle as="h2">Tie-out as of {{ dateText(desk.tieOut) }}</DialogTitle
        ><button class="ml-auto" aria-label="Close" @click="desk.tieOut = null"><kbd>Esc</kbd></button>
      </div>
      <p v-if="trouble" class="wrong px-[18px]">{{ trouble }}</p>
      <template v-if="answer">
        <p class="px-[18px] pb-3 text-soft">
          The open items of all customers beside the control account {{ answer.account }} {{ answer.name }}.
          <b :class="answer.ties ? 'text-ink' : 'wrong'">{{
            answer.ties
              ? 'They agree to the cent.'
              : 'They differ: run npm run verify, it names each difference.'
          }}</b>
        </p>
        <table class="grid-table">
          <thead>
            <tr>
              <th>Currency</th>
              <th class="num">Open items</th>
              <th class="num">Control account</th>
              <th class="num">Items, {{ answer.base }}</th>
              <th class="num">Control, {{ answer.base }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in answer.rows" :key="r.currency">
              <td>{{ r.currency }}</td>
              <td class="num"><Figure :amount="r.ledger" :currency="r.currency" zero /></td>
              <td class="num"><Figure :amount="r.control" :currency="r.currency" zero /></td>
              <td class="num"><Figure :amount="r.ledgerBase" :currency="answer.base" zero /></td>
              <td class="num"><Figure :amount="r.controlBase" :currency="answer.base" zero /></td>
            </tr>
          </tbody>
          <tfoot>
            <tr>
              <td colspan="3">All, in {{ answer.base }}</td>
              <td class="num"><Figure :amount="answer.ledgerBase" :currency="answer.base" zero /></td>
              <td class="num"><Figure :amount="answer.controlBase" :currency="answer.base" zero /></td>
            </tr>
          </tfoot>
        </table>
      </template>
    </DialogPanel>
  </Dialog>
</template>
