<script setup lang="ts">
definePageMeta({ noCard: true })
await navigateTo('/setup/company', { replace: true })
</script>

<template>
  <p class="hint px-[18px] py-4">Setup…</p>
</template>
