<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { Contact, Master, MasterValues } from '~~/contract/accounts/master'
import type { Fault } from '~~/contract/common'
import { useKeys } from '~/composables/keys'
import { holdKeys } from '~/composables/typeAhead'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { ApiProblem, call, problemText } from '~/utils/api'
import { dateText, proseText, timeText } from '~/utils/format'
import { fill } from '~/utils/fill'

const desk = useDesk()
const session = useSession()
const route = useRoute()
const number = computed(() => String(route.params.number))
const master = ref<Master | null>(null)
const faults = ref<readonly Fault[]>([])
const trouble = ref('')
const busy = ref(false)
const reads = ref(0)
const may = computed(() => session.can('customers.edit'))

async function read(): Promise<void> {
  try {
    await fill(master, () => call(contract.accounts.master, { params: { number: number.value } }))
    reads.value++
  } catch (error) {
    trouble.value = problemText(error)
  }
}
void read().finally(holdKeys())
watch(number, () => void read())
watch(number, n => desk.choose(n), { immediate: true })

/** What was refused: beside its field where it has one, above all else in words. */
function complain(error: unknown): void {
  trouble.value = problemText(error)
  faults.value = error instanceof ApiProblem ? (error.problem.errors ?? []) : []
}
async function done(text: string, waiting: number | null): Promise<void> {
  trouble.value = ''
  faults.value = []
  desk.say(
    waiting === null
      ? { text }
      : {
          text: `${text} The limit waits for a second person.`,
          to: `/sign-off?id=${waiting}`,
          action: 'See',
        },
  )
  await Promise.all([read(), desk.refresh()])
}
async function save(set: Partial<MasterValues>, contacts: Contact[] | undefined, why: string): Promise<void> {
  busy.value = true
  try {
    const { waiting, applied } = await call(contract.accounts.change, {
      params: { number: number.value },
      body: { version: master.value!.version, set, contacts, reason: why },
    })
    await done(applied.length || contacts ? 'Saved.' : 'Asked for.', waiting)
  } catch (error) {
    complain(error)
  } finally {
    busy.value = false
  }
}
async function close(): Promise<void> {
  const closed = master.value!.closedOn === null
  try {
    await call(contract.accounts.close, {
      params: { number: number.value },
      body: { version: master.value!.version, closed, reason: '' },
    })
    await done(closed ? 'The account is closed.' : 'The account is open again.', null)
  } catch (error) {
    complain(error)
  }
}
const merging = ref(false)
const into = ref('')
const reason = ref('')
async function merge(): Promise<void> {
  try {
    const { number: stays } = await call(contract.accounts.merge, {
      params: { number: number.value },
      body: { into: into.value, reason: reason.value },
    })
    desk.say({ text: `${number.value} is one with ${stays} now.` })
    await desk.choose(stays, true)
    await navigateTo(`/accounts/${encodeURIComponent(stays)}/master`)
  } catch (error) {
    complain(error)
  }
}
useKeys([
  {
    key: 'g',
    label: 'To the account',
    run: () => navigateTo(`/accounts/${encodeURIComponent(number.value)}`),
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>{{ master?.values.name ?? number }}</h1>
    <span class="text-soft">{{ number }}</span>
    <span v-if="master?.closedOn" class="font-semibold">closed {{ dateText(master.closedOn) }}</span>
    <span v-if="master?.mergedInto">
      one with
      <NuxtLink class="makes" :to="`/accounts/${master.mergedInto}/master`">{{ master.mergedInto }}</NuxtLink>
    </span>
    <span v-for="w in master?.waiting ?? []" :key="w.id" data-test="waiting"
      ><NuxtLink class="plain" :to="`/sign-off?id=${w.id}`"
        >{{ { limit: 'Limit', bank: 'Bank details', hold: 'Release' }[w.kind] ?? w.kind }} waits for a second
        person</NuxtLink
      ></span
    >
    <span class="ml-auto flex gap-4">
      <NuxtLink class="plain" :to="`/accounts/${encodeURIComponent(number)}`">Account <kbd>G</kbd></NuxtLink>
      <NuxtLink class="plain" :to="`/exposure/${encodeURIComponent(number)}`">Exposure</NuxtLink>
      <button v-if="may && master" class="plain" @click="close">
        {{ master.closedOn ? 'Open again' : 'Close' }}
      </button>
      <button v-if="session.can('signOff.sign')" class="plain" @click="merging = !merging">
        Same as another
      </button>
    </span>
  </div>
  <form v-if="merging" class="flex flex-wrap items-baseline gap-3 px-[18px] pb-2" @submit.prevent="merge">
    <span
      >All of {{ number }} goes over to the account that stays; {{ number }} only finds it from then on.</span
    >
    <input
      v-model="into"
      v-focus
      class="field w-[110px]"
      placeholder="Its number"
      aria-label="Number that stays"
      required
    />
    <input v-model="reason" class="field w-[190px]" placeholder="Why" aria-label="Why" required />
    <button class="plain">Make them one</button>
    <button type="button" class="plain" @click="merging = false">Leave it</button>
  </form>
  <div v-if="trouble" class="px-[18px] pb-2" role="alert" data-test="trouble">
    <p class="wrong">{{ trouble }}</p>
    <ul v-if="faults.length > 1 || faults[0]?.path === 'closed'" class="text-soft">
      <li v-for="f in faults" :key="f.path + f.message">{{ proseText(f.message) }}</li>
    </ul>
    <button v-if="trouble.includes('since you opened it')" class="plain" @click="read">
      Look at it as it is now
    </button>
  </div>
  <MasterForm
    v-if="master"
    :key="reads"
    :values="master.values"
    :contacts="master.contacts"
    :choices="master.choices"
    :inherited="master.inherited"
    :class-name="master.className"
    :faults="faults"
    :bank="master.bank"
    :busy="busy"
    @save="save"
  >
    <template #group>
      <template v-if="master.members.length"
        ><span class="label">Under it</span
        ><span class="flex flex-wrap gap-x-3"
          ><NuxtLink
            v-for="m in master.members"
            :key="m.number"
            class="makes"
            :to="`/accounts/${encodeURIComponent(m.number)}/master`"
            >{{ m.name }}</NuxtLink
          ></span
        ></template
      >
    </template>
    <section class="min-[1100px]:col-span-2">
      <h6 class="part-head mb-1 border-b border-rule pb-1">History</h6>
      <table v-if="master.history.length" class="grid-table flush" data-test="history">
        <tbody>
          <tr v-for="(h, i) in master.history" :key="i">
            <td>{{ timeText(h.at) }}</td>
            <td>{{ h.by }}</td>
            <td>{{ h.field }}</td>
            <td class="w-full !whitespace-normal">
              <span v-if="h.before" class="text-soft">{{ proseText(h.before) }} → </span
              >{{ proseText(h.after) || 'nothing' }}
              <span v-if="h.reason" class="hint">({{ h.reason }})</span>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else class="hint">Nothing was changed yet.</p>
    </section>
  </MasterForm>
  <p v-else-if="!trouble" class="hint p-[18px]">Reading the customer …</p>
</template>
