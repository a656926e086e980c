<script setup lang="ts">
import { computed } from 'vue'
import { useSession } from '~/stores/session'
import { SETUP_PARTS } from '~/utils/setupParts'

definePageMeta({ noCard: true })
const session = useSession()
const route = useRoute()
const parts = computed(() => SETUP_PARTS.filter(p => session.can(p.needs)))
const part = computed(() => parts.value.find(p => p.key === route.params.part))
</script>

<template>
  <div class="sheet-head"><h1>Setup</h1></div>
  <div class="flex min-h-0 flex-1">
    <nav
      class="w-[168px] flex-none overflow-auto border-r border-rule px-[18px] py-1"
      aria-label="Parts of Setup"
    >
      <NuxtLink
        v-for="p in parts"
        :key="p.key"
        class="block py-1.5"
        :class="p === part ? 'font-semibold' : 'text-soft'"
        :aria-current="p === part ? 'page' : undefined"
        :to="`/setup/${p.key}`"
        >{{ p.title }}</NuxtLink
      >
    </nav>
    <section
      v-if="part"
      class="min-w-0 flex-1 overflow-auto px-6 pb-10"
      :aria-labelledby="`part-${part.key}`"
      tabindex="-1"
    >
      <h2 :id="`part-${part.key}`">{{ part.title }}</h2>
      <p class="hint mb-4">{{ part.what }}</p>
      <CompanyForm v-if="part.key === 'company'" />
      <AgingForm v-else-if="part.key === 'aging'" />
      <CreditForm v-else-if="part.key === 'credit'" />
      <MeasuresForm v-else-if="part.key === 'measures'" />
      <ClassesForm v-else-if="part.key === 'classes'" />
      <CashForm v-else-if="part.key === 'cash'" />
      <PaymentsForm v-else-if="part.key === 'payments'" />
      <ImpairmentForm v-else-if="part.key === 'impairment'" />
      <BankAccounts v-else-if="part.key === 'bank'" />
      <PolicyForms v-else-if="part.key === 'reminders'" />
      <BooksForm v-else-if="part.key === 'books'" />
      <PeopleForm v-else-if="part.key === 'people'" />
      <AccessForm v-else-if="part.key === 'access'" />
      <template v-else-if="part.key === 'you'"><PasswordForm /><SessionList /></template>
      <SettingHistory v-else />
    </section>
    <p v-else class="hint px-6">There is no such part, or it is not yours to see. Choose one on the left.</p>
  </div>
</template>
