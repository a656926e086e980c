<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { ComparedWhatIf, KeptWhatIf } from '~~/contract/forecast'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { dateText, plural, wholeText } from '~/utils/format'

/** What-ifs that are kept, side by side, beside the forecast as it is. */
const props = defineProps<{ query: Record<string, string | number | undefined> }>()
const emit = defineEmits<{ show: [kept: KeptWhatIf] }>()
const session = useSession()
const may = computed(() => session.can('forecast.plan'))
const kept = ref<KeptWhatIf[]>([])
const rows = ref<ComparedWhatIf[]>([])
const currency = ref('')
const loading = ref(false)
const trouble = ref('')
const current = ref<ComparedWhatIf | null>(null)
const { trouble: refused, guard } = useGuard()
async function load(): Promise<void> {
  loading.value = true
  try {
    const [list, compared] = await Promise.all([
      call(contract.forecast.whatIfs),
      call(contract.forecast.compare, { query: props.query }),
    ])
    kept.value = list.items
    rows.value = compared.items
    currency.value = compared.currency
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    loading.value = false
  }
}
watch(() => props.query, load, { immediate: true })
function show(row: ComparedWhatIf): void {
  const own = kept.value.find(k => k.id === row.id)
  if (own) emit('show', own)
}
async function end(row: ComparedWhatIf): Promise<void> {
  await guard(async () => {
    await call(contract.forecast.endWhatIf, { params: { id: row.id! } })
    current.value = null
    await load()
  }, `${row.name} is kept no more.`)
}
const base = computed(() => rows.value[0])
const whole = (amount: number): string => wholeText(amount, currency.value)
/** By how much it differs from the forecast as it is. */
function moved(amount: number | undefined, before: number | undefined): string {
  if (amount === undefined || before === undefined || amount === before) return ''
  return `${amount > before ? '+' : ''}${whole(amount - before)}`
}
const canEnd = computed(() => may.value && current.value !== null && current.value.id !== null)
useKeys([
  {
    key: 'x',
    label: 'Keep it no more',
    when: () => canEnd.value,
    run: () => void end(current.value!),
  },
])
</script>

<template>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <SheetTable
    :columns="[
      { key: 'name', label: 'What if', cut: true },
      { key: 'soon', label: 'Net, four weeks', num: true, width: 150, gives: 2 },
      { key: 'end', label: 'In the end', num: true, width: 170 },
      { key: 'lowest', label: 'Lowest', num: true, width: 190, gives: 1 },
      { key: 'crossing', label: 'Floor in danger by', width: 140 },
      { key: 'below', label: 'Chance', num: true, width: 80 },
    ]"
    :rows="rows"
    :row-key="r => r.id ?? 0"
    :more="false"
    :loading="loading"
    label="What-ifs"
    @cursor="r => (current = r)"
    @open="show"
  >
    <template #cell-name="{ row }"
      ><span class="name">{{ row.name }}</span>
      <span class="aside ml-2" :title="row.words.join('; ')">{{ row.words.join('; ') }}</span>
      <span v-if="row.trouble" class="wrong ml-2">{{ row.trouble }}</span></template
    >
    <template #cell-soon="{ row }"
      ><template v-if="row.net.length"
        >{{ whole(row.net[0]!)
        }}<span class="aside block">{{ moved(row.net[0], base?.net[0]) }}</span></template
      ></template
    >
    <template #cell-end="{ row }"
      ><template v-if="row.end"
        ><b class="font-semibold">{{ whole(row.end.p50) }}</b
        ><span class="aside block">{{ moved(row.end.p50, base?.end?.p50) }}</span></template
      ></template
    >
    <template #cell-lowest="{ row }"
      ><template v-if="row.lowest"
        >{{ whole(row.lowest.amount)
        }}<span class="aside block">{{ dateText(row.lowest.date) }}</span></template
      ></template
    >
    <template #cell-crossing="{ row }"
      ><span v-if="row.crossing" class="wrong">{{ dateText(row.crossing) }}</span
      ><span v-else-if="!row.trouble" class="text-soft">not in danger</span></template
    >
    <template #cell-below="{ row }">{{
      row.below === null ? '' : `${Math.round(row.below * 100)} %`
    }}</template>
    <template #foot
      ><tr>
        <td colspan="6">
          {{ plural(kept.length, 'what-if') }} kept
          <span v-if="current?.id" class="ml-4"
            ><button class="plain !py-0" @click="show(current)">Show {{ current.name }}</button>
            <button v-if="canEnd" class="plain !py-0 ml-3" @click="end(current)">
              Keep it no more <kbd>X</kbd>
            </button></span
          >
        </td>
      </tr></template
    >
    <template #empty>Nothing is kept: try a what-if on the first part, then keep it.</template>
  </SheetTable>
</template>
