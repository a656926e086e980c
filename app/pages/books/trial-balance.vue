<script setup lang="ts">
import { ref, watch } from 'vue'
import { contract } from '~~/contract'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { fill } from '~/utils/fill'

definePageMeta({ noCard: true })
const session = useSession()
const desk = useDesk()
const asOf = ref(session.today)
type Answer = Awaited<ReturnType<typeof read>>
const read = () => call(contract.books.trialBalance, { query: { asOf: asOf.value } })
const answer = ref<Answer | null>(null)
const trouble = ref('')
watch(
  asOf,
  async () => {
    try {
      await fill(answer, () => read())
      trouble.value = ''
    } catch (error) {
      trouble.value = problemText(error)
    }
  },
  { immediate: true },
)
</script>

<template>
  <div class="sheet-head">
    <h1>Trial balance</h1>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="as-of">as of</label
      ><DateField id="as-of" v-model="asOf" label="As of" :today="session.today" /></span
    ><button class="hint makes ml-auto" @click="desk.tieOut = asOf">tie-out of the receivables</button>
  </div>
  <p v-if="trouble" class="wrong px-[18px]">{{ trouble }}</p>
  <div class="min-h-0 flex-1 overflow-auto">
    <table v-if="answer" class="grid-table max-w-[760px]">
      <thead>
        <tr>
          <th>Account</th>
          <th>Name</th>
          <th>Type</th>
          <th class="num">Debit</th>
          <th class="num">Credit</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="a in answer.items" :key="a.number">
          <td>
            <NuxtLink class="makes font-semibold" :to="`/books/journal?account=${a.number}`">{{
              a.number
            }}</NuxtLink>
          </td>
          <td>{{ a.name }}</td>
          <td class="text-soft">{{ a.type }}</td>
          <td class="num"><Figure :amount="a.debit" :currency="answer.base" /></td>
          <td class="num"><Figure :amount="a.credit" :currency="answer.base" /></td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td colspan="3">
            {{
              answer.totals.debit === answer.totals.credit
                ? 'Debits equal credits'
                : 'Debits and credits differ'
            }}, in {{ answer.base }}
          </td>
          <td class="num"><Figure :amount="answer.totals.debit" :currency="answer.base" zero /></td>
          <td class="num"><Figure :amount="answer.totals.credit" :currency="answer.base" zero /></td>
        </tr>
      </tfoot>
    </table>
  </div>
</template>
