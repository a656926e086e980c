<script setup lang="ts">
import { ref, watch } from 'vue'

/** Money that goes back: the credits, the refunds, their cheques and files, and what nobody claims. */
const PARTS = {
  credits: 'Credits',
  refunds: 'Refunds',
  cheques: 'Cheques',
  files: 'Files',
  unclaimed: 'Unclaimed',
} as const
type Part = keyof typeof PARTS
const route = useRoute()
const router = useRouter()
const asked = String(route.query.part ?? '')
const part = ref<Part>(asked in PARTS ? (asked as Part) : 'credits')
const customer = ref(String(route.query.customer ?? ''))
watch([part, customer], () => {
  void router.replace({ query: { part: part.value, customer: customer.value || undefined } })
})
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
