<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { contract } from '~~/contract'
import type { View, VIEW_SCREENS, ViewState } from '~~/contract/views'
import { useDesk } from '~/stores/desk'
import { call, problemText } from '~/utils/api'
import { fill } from '~/utils/fill'

/**
 * The views of a list, before all else on it: one's own first, then what others share. A view is what the
 * screen keeps of itself; `current` is that now, `apply` makes it so again.
 */
const props = defineProps<{ screen: (typeof VIEW_SCREENS)[number]; current: ViewState }>()
const emit = defineEmits<{ apply: [state: ViewState] }>()
const desk = useDesk()
const views = ref<View[]>([])
const naming = ref(false)
const name = ref('')
const shared = ref(false)
const trouble = ref('')
const field = ref<HTMLInputElement | null>(null)

const inOrder = (state: ViewState) =>
  JSON.stringify(Object.entries(state).sort(([a], [b]) => (a < b ? -1 : 1)))
const now = computed(() => inOrder(props.current))
const isShown = (view: View) => inOrder(view.state) === now.value
const route = useRoute()

async function read(): Promise<void> {
  try {
    await fill(
      views,
      async () => (await call(contract.views.list, { query: { screen: props.screen } })).items,
    )
  } catch (error) {
    trouble.value = problemText(error)
  }
}
void read().then(() => {
  const asked = views.value.find(v => String(v.id) === route.query.view)
  if (asked) emit('apply', asked.state)
})
async function begin(): Promise<void> {
  const shownNow = views.value.find(v => v.mine && isShown(v))
  name.value = shownNow?.name ?? ''
  shared.value = shownNow?.shared ?? false
  naming.value = true
  await nextTick()
  field.value?.focus()
}
async function save(): Promise<void> {
  try {
    const body = { screen: props.screen, name: name.value, shared: shared.value, state: { ...props.current } }
    const kept = await call(contract.views.save, { body })
    naming.value = false
    trouble.value = ''
    desk.say({ text: `View ${kept.name} kept${kept.shared ? ', for everybody' : ''}.` })
    await read()
  } catch (error) {
    trouble.value = problemText(error)
  }
}
async function remove(view: View): Promise<void> {
  try {
    await call(contract.views.remove, { params: { id: view.id } })
    desk.say({ text: `View ${view.name} removed.` })
    await read()
  } catch (error) {
    trouble.value = problemText(error)
  }
}
defineExpose({
  begin,
  /** The n-th view, for a key. */
  show: (n: number) => {
    const view = views.value[n]
    if (view) emit('apply', view.state)
  },
})
</script>

<template>
  <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1 px-[18px] pb-0.5" data-test="views">
    <span class="label">Views</span>
    <span v-for="v in views" :key="v.id" class="whitespace-nowrap">
      <button
        class="min-h-6"
        :class="isShown(v) ? 'font-semibold text-ink underline' : 'text-accent'"
        :aria-pressed="isShown(v)"
        :title="v.mine ? (v.shared ? 'yours, shared with everybody' : 'yours alone') : `shared by ${v.by}`"
        @click="emit('apply', v.state)"
      >
        {{ v.name }}</button><span v-if="!v.mine" class="aside ml-1">{{ v.by }}</span
      ><button
        v-if="v.mine && isShown(v)"
        class="aside ml-1 min-h-6 min-w-6"
        :aria-label="`Remove view ${v.name}`"
        title="Remove this view"
        @click="remove(v)"
      >
        ×
      </button></span
    >
    <form
      v-if="naming"
      class="flex items-baseline gap-3"
      @submit.prevent="save"
      @keydown.escape="naming = false"
    >
      <input
        ref="field"
        v-model="name"
        class="field w-[150px]"
        maxlength="60"
        required
        placeholder="Name of the view"
        aria-label="Name of the view"
      /><label class="flex items-center gap-1.5"
        ><input v-model="shared" type="checkbox" class="tick" /> for everybody</label
      ><button class="plain min-h-6">Save</button
      ><button class="aside min-h-6" type="button" @click="naming = false">leave it</button>
    </form>
    <button v-else class="plain min-h-6" @click="begin">Save this view <kbd>S</kbd></button>
    <span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span>
    <span class="ml-auto flex items-baseline gap-4"><slot /></span>
  </div>
</template>
