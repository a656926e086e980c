<script setup lang="ts">
import { usePart } from '~/composables/part'

/** Money that goes back: the credits, the refunds, their cheques and files, and what nobody claims. */
const PARTS = {
  credits: 'Credits',
  refunds: 'Refunds',
  cheques: 'Cheques',
  files: 'Files',
  unclaimed: 'Unclaimed',
} as const
const { part, customer } = usePart(PARTS, 'credits')
</script>

<template>
  <PartsHead v-model="part" title="Refunds" :parts="PARTS">
    <span v-if="customer" class="text-soft"
      >of {{ customer }} <button class="plain !py-0" @click="customer = ''">all customers</button></span
    >
  </PartsHead>
  <CreditsToRefund v-if="part === 'credits'" :customer="customer" />
  <RefundList v-else-if="part === 'refunds'" :customer="customer" />
  <ChequeList v-else-if="part === 'cheques'" />
  <PaymentFiles v-else-if="part === 'files'" kind="transfer" />
  <UnclaimedCredits v-else />
</template>
