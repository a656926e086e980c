<script setup lang="ts">
import Bowser from 'bowser'
import { ref } from 'vue'
import { contract } from '~~/contract'
import type { OpenSession } from '~~/contract/people'
import { useGuard } from '~/composables/guard'
import { call } from '~/utils/api'
import { timeText } from '~/utils/format'
import { fill } from '~/utils/fill'

const { trouble, guard, complain } = useGuard()
const sessions = ref<OpenSession[]>([])
const load = async () => {
  await fill(sessions, async () => (await call(contract.people.sessions)).items)
}
void load().catch(complain)
const end = (id: number) =>
  guard(async () => {
    await call(contract.people.endSession, { params: { id } })
    await load()
  }, 'Signed out there.')

/** "Chromium on Linux": what a browser calls itself, for people. */
function machine(agent: string): string {
  if (!agent) return 'a program'
  const { browser, os } = Bowser.parse(agent)
  return [browser.name ?? agent.split(/[ /]/)[0], os.name].filter(Boolean).join(' on ')
}
</script>

<template>
  <section id="sessions" class="border-t border-rule py-4">
    <h2 class="mb-2">Where you are signed in</h2>
    <table class="grid-table max-w-[820px]">
      <tbody>
        <tr v-for="s in sessions" :key="s.id">
          <td class="!pl-0" :title="s.agent">{{ machine(s.agent) }}</td>
          <td class="text-soft">from {{ s.network }}</td>
          <td class="text-soft">since {{ timeText(s.at) }}</td>
          <td class="text-soft">last used {{ timeText(s.usedAt) }}</td>
          <td>
            <span v-if="s.current" class="hint">here and now</span
            ><button v-else class="plain" @click="end(s.id)">Sign out there</button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
  </section>
</template>
