<script setup lang="ts">
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import { computed, onMounted, ref } from 'vue'
import { contract } from '~~/contract'
import type { AllowanceRunRow } from '~~/contract/allowance'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText, plural } from '~/utils/format'
import { fill } from '~/utils/fill'

/** Allowances that were posted; the last may be taken back. */
const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const may = computed(() => session.can('impairment.post'))
const rows = ref<AllowanceRunRow[]>([])
const { trouble, guard } = useGuard()
const undoing = ref<AllowanceRunRow | null>(null)

async function load(): Promise<void> {
  try {
    await fill(rows, async () => (await call(contract.allowance.runs)).items)
  } catch (error) {
    trouble.value = problemText(error)
  }
}
onMounted(load)
defineExpose({ load })

async function undo(reason: string): Promise<void> {
  const { id, date } = undoing.value!
  await guard(
    async () => {
      await call(contract.allowance.undo, {
        params: { id },
        body: { reason },
        key: crypto.randomUUID(),
      })
      await load()
      emit('changed')
    },
    `The allowance of ${dateText(date)} is taken back.`,
  )
  if (trouble.value) return
  undoing.value = null
}
</script>

<template>
  <Disclosure v-if="rows.length" v-slot="{ open }" as="div" class="border-t border-rule px-[18px] py-1.5">
    <DisclosureButton class="plain"
      >{{ open ? 'Hide' : 'Show' }} {{ plural(rows.length, 'allowance') }} posted before</DisclosureButton
    >
    <DisclosurePanel class="max-h-[150px] overflow-auto pt-1">
      <p
        v-for="r in rows"
        :key="r.id"
        class="flex items-baseline gap-3"
        :class="r.undone ? 'text-faint' : ''"
      >
        <span class="w-[98px]">{{ dateText(r.date) }}</span>
        <b class="num w-[120px] text-right font-semibold">{{ amountText(r.allowance, session.base) }}</b>
        <span class="num w-[120px] text-right"
          >{{ r.difference > 0 ? '+' : '' }}{{ amountText(r.difference, session.base) }}</span
        >
        <span class="text-soft"
          >{{ r.undone ? 'taken back; ' : '' }}by {{ r.by
          }}<template v-if="r.factor !== 10000"
            >, at {{ r.factor / 100 }} % of the rates: {{ r.reason }}</template
          ></span
        >
        <NuxtLink v-if="r.entry" class="makes" :to="`/books/journal?number=${r.entry}`"
          >entry {{ r.entry }}</NuxtLink
        >
        <button v-if="may && r.last" class="plain" @click="undoing = r">Take it back</button>
      </p>
      <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    </DisclosurePanel>
  </Disclosure>
  <BecauseForm
    v-if="undoing"
    :what="`Take that of ${dateText(undoing.date)} back`"
    @because="undo"
    @cancel="undoing = null"
  />
</template>
