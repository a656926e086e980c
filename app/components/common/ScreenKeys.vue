<script setup lang="ts">
import { useKeys, type Key } from '~/composables/keys'

/** Keys of something that comes and goes: while it is there they come before those of the screen below it. */
const props = defineProps<{ keys: Key[] }>()
useKeys(props.keys)
</script>

<template><span hidden /></template>
