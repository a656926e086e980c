<script setup lang="ts">
import { Liquid } from 'liquidjs'
import { ref, watchEffect } from 'vue'
import { useSession } from '~/stores/session'
import { amountText, dateText } from '~/utils/format'

/** A letter's text with values filled in as it is typed; what is wrong with it is said at once. */
const props = defineProps<{ subject: string; body: string; level: number; fee: number; currency: string }>()
const session = useSession()
const engine = new Liquid({
  strictVariables: true,
  strictFilters: true,
  ownPropertyOnly: true,
  renderLimit: 500,
})
const shown = ref({ subject: '', body: '' })
const trouble = ref('')

watchEffect(async () => {
  const money = (amount: number) => `${props.currency} ${amountText(amount, props.currency)}`
  const values = {
    ...{ company: session.settings?.company ?? '', customer: 'Quillhaven Stores', contact: 'Ada Rook' },
    ...{ number: 'N-00042', level: props.level, total: money(121_040 + props.fee), fee: money(props.fee) },
    ...{ interest: money(4280), has_interest: true },
    ...{ has_fee: props.fee > 0, date: dateText(session.today), deadline: dateText(session.today), items: 2 },
  }
  const { subject, body } = props
  try {
    const [first, second] = await Promise.all([
      engine.parseAndRender(subject, values) as Promise<string>,
      engine.parseAndRender(body, values) as Promise<string>,
    ])
    shown.value = { subject: first, body: second }
    trouble.value = ''
  } catch (error) {
    trouble.value = (error as Error).message.split('\n')[0]!
  }
})
</script>

<template>
  <div
    class="border-l-2 border-rule pl-3"
    aria-live="polite"
    aria-label="As the customer reads it"
    role="group"
  >
    <p v-if="trouble" class="wrong">{{ trouble }}</p>
    <template v-else>
      <p class="font-semibold">{{ shown.subject }}</p>
      <p class="whitespace-pre-line text-soft">{{ shown.body }}</p>
    </template>
  </div>
</template>
