<script setup lang="ts">
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
import { ref } from 'vue'
import { contract } from '~~/contract'
import { useChoosing } from '~/composables/choosing'
import { call, problemText } from '~/utils/api'

/** `quiet`: does not take the focus, where the keys of the screen come first. */
defineProps<{ quiet?: boolean }>()
const emit = defineEmits<{ pick: [number: string, name: string] }>()
const query = ref('')
const found = ref<{ number: string; name: string; country: string; currency: string }[]>([])
const trouble = ref('')
/** What was typed is being looked for: the list is still that of before. */
const looking = ref(true)
const { hold, release } = useChoosing(() => looking.value)
let asked = 0

async function look(words: string): Promise<void> {
  const mine = ++asked
  query.value = words
  looking.value = true
  await new Promise(resolve => setTimeout(resolve, 100))
  if (mine !== asked) return
  try {
    const { items } = await call(contract.accounts.list, {
      query: { search: words.trim() || undefined, limit: 12 },
    })
    if (mine !== asked) return
    found.value = items
    trouble.value = ''
  } catch (error) {
    if (mine !== asked) return
    trouble.value = problemText(error)
  }
  looking.value = false
  await release()
}
void look('')
</script>

<template>
  <Combobox
    as="div"
    class="relative w-[340px]"
    :model-value="null"
    nullable
    @update:model-value="v => v && emit('pick', v, found.find(c => c.number === v)?.name ?? v)"
  >
    <ComboboxInput
      v-focus="!quiet"
      class="field w-full"
      placeholder="Customer: name or number"
      aria-label="Customer"
      autocomplete="off"
      data-test="customer"
      @change="look($event.target.value)"
      @keydown.capture="hold"
    />
    <ComboboxOptions
      class="absolute z-30 mt-1 max-h-80 w-full overflow-auto border border-strong bg-sheet py-1 shadow-lg"
    >
      <p v-if="trouble" class="wrong px-3 py-2">{{ trouble }}</p>
      <p v-else-if="!found.length" class="hint px-3 py-2">No customer called “{{ query }}”.</p>
      <ComboboxOption v-for="c in found" :key="c.number" v-slot="{ active }" :value="c.number"
        ><div class="flex cursor-pointer items-baseline gap-2 px-3 py-1.5" :class="active ? 'bg-row' : ''">
          <span class="name">{{ c.name }}</span><span class="aside ml-auto"
            >{{ c.number }} · {{ c.currency }}</span
          >
        </div></ComboboxOption
      >
    </ComboboxOptions>
  </Combobox>
</template>
