<script setup lang="ts">
import { onMounted, watch } from 'vue'
import { useSession } from '~/stores/session'

definePageMeta({ noCard: true })
const session = useSession()
const { chart, series } = session.settings!
const route = useRoute()
/** A link to a part of the page: once the parts above it have their height. */
function toPart(): void {
  if (route.hash) setTimeout(() => document.querySelector(route.hash)?.scrollIntoView(), 150)
}
onMounted(toPart)
watch(() => route.hash, toPart)
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto px-[18px] pb-10">
    <div class="pb-2 pt-[14px]"><h1>Setup</h1></div>
    <CompanyForm />
    <BankAccounts v-if="session.can('books.read')" />
    <PolicyForms />
    <PeopleForm v-if="session.can('people.edit')" />
    <AccessForm v-if="session.can('people.edit')" />
    <PasswordForm />
    <SessionList />
    <div class="grid gap-10 border-t border-rule py-4 md:grid-cols-2">
      <section>
        <h2 class="mb-2">Chart of accounts</h2>
        <table class="grid-table">
          <tbody>
            <tr v-for="a in chart" :key="a.number">
              <td class="!pl-0 font-semibold">{{ a.number }}</td>
              <td>{{ a.name }}</td>
              <td class="text-soft">{{ a.type }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <section>
        <h2 class="mb-2">Number series</h2>
        <table class="grid-table">
          <tbody>
            <tr v-for="x in series" :key="x.name">
              <td class="!pl-0">{{ x.name }}</td>
              <td class="num">next {{ x.prefix }}{{ x.next }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
  </div>
</template>
