<script setup lang="ts">
import { watch } from 'vue'
import { useDesk } from '~/stores/desk'

/** What was just done, with the way to correct it. */
const desk = useDesk()
let timer: ReturnType<typeof setTimeout> | undefined
watch(
  () => desk.said,
  said => {
    clearTimeout(timer)
    if (said && !said.to)
      timer = setTimeout(() => {
        desk.said = null
      }, 8000)
  },
)
</script>

<template>
  <div
    class="pointer-events-none fixed inset-x-0 top-[52px] z-30 flex justify-center"
    role="status"
    aria-live="polite"
  >
    <p
      v-if="desk.said"
      class="pointer-events-auto flex items-center gap-4 border-l-[3px] border-accent bg-ink px-4 py-2 text-sheet"
      data-test="said"
    >
      <span>{{ desk.said.text }}</span>
      <a
        v-if="desk.said.to?.startsWith('/api/')"
        :href="desk.said.to"
        target="_blank"
        class="font-semibold underline underline-offset-3"
        >{{ desk.said.action }}</a
      >
      <NuxtLink
        v-else-if="desk.said.to"
        :to="desk.said.to"
        class="font-semibold underline underline-offset-3"
        @click="desk.said = null"
        >{{ desk.said.action }}</NuxtLink
      >
      <button class="opacity-70" aria-label="Dismiss" @click="desk.said = null">✕</button>
    </p>
  </div>
</template>
