<script setup lang="ts">
import { usePreferredDark, useStorage } from '@vueuse/core'
import { computed, watchEffect } from 'vue'

const look = useStorage<'light' | 'dark' | 'system'>('bilancio-look', 'system')
const prefersDark = usePreferredDark()
const dark = computed(() => look.value === 'dark' || (look.value === 'system' && prefersDark.value))
watchEffect(() => document.documentElement.classList.toggle('dark', dark.value))
</script>

<template>
  <NuxtLayout>
    <NuxtPage />
  </NuxtLayout>
</template>
