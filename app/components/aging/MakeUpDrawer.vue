<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { AgingItems } from '~~/contract/aging'
import { useFocusBack } from '~/composables/focus'
import { useDesk } from '~/stores/desk'
import { call, problemText } from '~/utils/api'
import { dateText, kindText, plural } from '~/utils/format'

/** The Make-up of a figure: the items it is made of, adding up to it. */
const desk = useDesk()
useFocusBack(() => desk.makeUp !== null)
const answer = ref<AgingItems | null>(null)
const items = ref<AgingItems['items']>([])
const trouble = ref('')
const loading = ref(false)
async function load(cursor?: string): Promise<void> {
  const request = desk.makeUp
  if (!request) return
  loading.value = true
  try {
    const page = await call(contract.aging.items, { query: { ...request.query, limit: 200, cursor } })
    if (desk.makeUp !== request) return
    answer.value = page
    items.value = cursor ? [...items.value, ...page.items] : page.items
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    loading.value = false
  }
}
watch(
  () => desk.makeUp,
  request => {
    answer.value = null
    items.value = []
    if (request) void load()
  },
)
const one = computed(() => desk.makeUp?.query.by === 'customer' && desk.makeUp.query.key)
const foreign = computed(() => items.value.some(i => i.documentCurrency !== answer.value?.currency))
</script>

<template>
  <Dialog :open="desk.makeUp !== null" class="relative z-40" @close="desk.makeUp = null">
    <div class="fixed inset-0 bg-black/15" aria-hidden="true" />
    <DialogPanel
      class="drawer fixed inset-y-0 right-0 flex w-[620px] max-w-full flex-col"
      tabindex="0"
      data-test="make-up"
    >
      <div class="flex items-baseline gap-4 px-[18px] pb-2 pt-[14px]">
        <DialogTitle as="h2">{{ desk.makeUp?.title }}</DialogTitle><button
          class="ml-auto"
          aria-label="Close"
          @click="desk.makeUp = null"
        >
          <kbd>Esc</kbd>
        </button>
      </div>
      <p class="px-[18px] pb-2 text-soft">
        <template v-if="answer"
          >{{ plural(answer.count, 'item') }} as of {{ dateText(answer.asOf) }}, in
          {{ answer.currency }}. </template
        >{{ desk.makeUp?.why }}
      </p>
      <p v-if="trouble" class="wrong px-[18px]">{{ trouble }}</p>
      <div class="min-h-0 flex-1 overflow-auto">
        <table class="grid-table">
          <thead>
            <tr>
              <th>Item</th>
              <th v-if="!one">Customer</th>
              <th>Due</th>
              <th class="num">Days late</th>
              <th v-if="foreign" class="num">Document</th>
              <th class="num">Open</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="i in items" :key="i.id">
              <td :title="kindText(i.kind)">
                <NuxtLink
                  class="makes"
                  :to="`/accounts/${i.customer.number}?state=all&find=${i.number}`"
                  @click="desk.makeUp = null"
                  >{{ i.number }}<template v-if="i.part > 1"> ({{ i.part }})</template></NuxtLink
                >
              </td>
              <td v-if="!one" class="cut w-1/2">
                <NuxtLink class="makes" :to="`/accounts/${i.customer.number}`" @click="desk.makeUp = null">{{
                  i.customer.name
                }}</NuxtLink>
              </td>
              <td>{{ dateText(i.dueDate) }}</td>
              <td class="num">
                <template v-if="i.daysLate > 0">{{ i.daysLate }}</template><span v-else class="cents">{{
                  i.daysLate === 0 ? 'today' : `in ${-i.daysLate}`
                }}</span>
              </td>
              <td v-if="foreign" class="num">
                <Figure :amount="i.documentOpen" :currency="i.documentCurrency" cr />
                {{ ' ' }}
                <span class="aside">{{ i.documentCurrency }}</span>
              </td>
              <td class="num"><Figure :amount="i.open" :currency="answer!.currency" cr /></td>
            </tr>
          </tbody>
          <tfoot v-if="answer">
            <tr>
              <td :colspan="(one ? 3 : 4) + (foreign ? 1 : 0)">{{ plural(answer.count, 'item') }}</td>
              <td class="num" data-test="make-up-total">
                <Figure :amount="answer.total" :currency="answer.currency" zero cr />
              </td>
            </tr>
          </tfoot>
        </table>
        <p v-if="!loading && answer && !items.length" class="hint p-[18px]">
          Nothing makes up this figure: it is zero.
        </p>
        <button
          v-if="answer?.next"
          class="plain px-[18px] py-3"
          :disabled="loading"
          @click="load(answer!.next!)"
        >
          Show more ({{ items.length }} of {{ answer.count }})
        </button>
      </div>
    </DialogPanel>
  </Dialog>
</template>
