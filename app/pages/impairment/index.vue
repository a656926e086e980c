<script setup lang="ts">
import { usePart } from '~/composables/part'

/** Debts that are lost: what may be written off, what was, what came back, and what is set aside. */
const PARTS = {
  open: 'To write off',
  written: 'Written off',
  back: 'Came back',
  aside: 'Set aside',
  report: 'Report',
} as const
const route = useRoute()
const { part, customer } = usePart(PARTS, 'open')
</script>

<template>
  <PartsHead v-model="part" title="Bad debts" :parts="PARTS">
    <span v-if="customer" class="text-soft"
      >of {{ customer }} <button class="plain !py-0" @click="customer = ''">all customers</button></span
    >
  </PartsHead>
  <LossCandidates v-if="part === 'open'" :customer="customer" :item="Number(route.query.item ?? 0)" />
  <WriteOffList v-else-if="part === 'written'" :customer="customer" />
  <template v-else-if="part === 'back'">
    <Recoverables :customer="customer"><InsolvencyClaims /></Recoverables>
  </template>
  <AllowanceSheet v-else-if="part === 'aside'" />
  <LossReport v-else />
</template>
