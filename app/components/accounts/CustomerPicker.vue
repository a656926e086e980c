<script setup lang="ts">
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
import { ref } from 'vue'
import { contract } from '~~/contract'
import { call, problemText } from '~/utils/api'

/** `quiet`: does not take the focus, where the keys of the screen come first. */
defineProps<{ quiet?: boolean }>()
const emit = defineEmits<{ pick: [number: string, name: string] }>()
const query = ref('')
const found = ref<{ number: string; name: string; country: string; currency: string }[]>([])
const trouble = ref('')
/** What was typed is being looked for: the list is still that of before. */
const looking = ref(true)
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

const CHOOSING = ['ArrowDown', 'ArrowUp', 'Enter']
let input: HTMLElement | null = null
/** An arrow marks its row in the next frame: an Enter before that would choose nothing. */
let isMoving = false
const held: string[] = []
const frames = (): Promise<void> =>
  new Promise(resolve => requestAnimationFrame(() => requestAnimationFrame(() => resolve())))

/** Keys that choose are for what will be found, not for what is still shown: they wait for it. */
function hold(event: KeyboardEvent): void {
  if (!CHOOSING.includes(event.key)) return
  input = event.currentTarget as HTMLElement
  if (looking.value || (isMoving && event.isTrusted)) {
    event.preventDefault()
    event.stopImmediatePropagation()
    held.push(event.key)
  } else if (event.key !== 'Enter' && event.isTrusted) void move()
}
async function move(): Promise<void> {
  isMoving = true
  await frames()
  isMoving = false
  await release()
}
async function release(): Promise<void> {
  for (let key = held.shift(); key; key = held.shift()) {
    await frames()
    input?.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))
  }
}
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
