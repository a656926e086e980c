<script setup lang="ts">
import { reactive } from 'vue'
import { contract } from '~~/contract'
import type { Source } from '~~/core/forecast'
import { useGuard } from '~/composables/guard'
import { call } from '~/utils/api'
import { useDesk } from '~/stores/desk'

/** Sends the page for the meeting by mail, as the forecast is shown now. */
const props = defineProps<{
  query: { asOf?: string; weeks: number; currency?: string; sources: Source[] }
}>()
const emit = defineEmits<{ done: [] }>()
const desk = useDesk()
const form = reactive({ to: '', note: '', busy: false })
const { trouble, guard } = useGuard()
async function send(): Promise<void> {
  form.busy = true
  await guard(async () => {
    const to = form.to.split(/[\s,;]+/).filter(Boolean)
    const { sent } = await call(contract.forecast.share, {
      body: { to, note: form.note, query: props.query },
    })
    desk.say({ text: `The forecast is sent to ${sent.join(', ')}.` })
    emit('done')
  }, '')
  form.busy = false
}
</script>

<template>
  <form class="filters" @submit.prevent="send" @keydown.esc="emit('done')">
    <label class="label" for="share-to">Send to</label>
    <input
      id="share-to"
      v-model="form.to"
      v-focus
      class="field w-[300px]"
      placeholder="addresses, with commas"
      required
      maxlength="400"
    />
    <input
      v-model="form.note"
      class="field w-[300px]"
      placeholder="A word with it"
      aria-label="A word with it"
      maxlength="2000"
    />
    <button class="plain" :disabled="form.busy">Send the page</button>
    <button type="button" class="hint" @click="emit('done')">Cancel</button>
    <span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span>
  </form>
</template>
