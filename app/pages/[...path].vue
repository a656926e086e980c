<script setup lang="ts">
/** Any address that no page has. */
definePageMeta({ noCard: true })
const route = useRoute()
</script>

<template>
  <div class="sheet-head"><h1>There is no such page</h1></div>
  <div class="px-[18px]">
    <p class="mb-3">
      Nothing is at <b class="break-all">{{ route.path }}</b>: the address may be mistyped, or what it named
      is not there any more.
    </p>
    <p>
      <NuxtLink class="plain" to="/">To Today</NuxtLink>
      {{ ' ' }}
      <span class="hint">or press <kbd>/</kbd> and say what you look for</span>
    </p>
  </div>
</template>
