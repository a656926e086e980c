<script setup lang="ts">
import { reactive, ref } from 'vue'
import { contract } from '~~/contract'
import { ROLES } from '~~/core/people'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { fill } from '~/utils/fill'

const { trouble, guard, complain } = useGuard()
type People = Awaited<ReturnType<typeof readPeople>>['items']
const readPeople = () => call(contract.people.list)
const people = ref<People>([])
void fill(people, async () => (await readPeople()).items).catch(complain)
const person = reactive({ name: '', email: '', role: 'controller' as (typeof ROLES)[number], password: '' })
const addPerson = () =>
  guard(async () => {
    await call(contract.people.add, { body: person })
    Object.assign(person, { name: '', email: '', password: '' })
    await fill(people, async () => (await readPeople()).items)
  }, 'Person added.')
const session = useSession()
const isOwn = (email: string) => session.session?.person.email === email
interface Change {
  role?: (typeof ROLES)[number]
  active?: boolean
  password?: string
}
/** A password given anew: who, and what. */
const giving = reactive({ id: 0, password: '' })
const give = (id: number) =>
  changePerson(id, { password: giving.password }, 'Password given; they choose their own when they sign in.')
const signOut = (id: number, name: string) =>
  guard(async () => {
    await call(contract.people.signOutPerson, { params: { id } })
  }, `${name} is signed out everywhere.`)
const changePerson = (id: number, body: Change, said = 'Saved.') =>
  guard(async () => {
    await call(contract.people.change, { params: { id }, body })
    Object.assign(giving, { id: 0, password: '' })
    await fill(people, async () => (await readPeople()).items)
  }, said)
</script>

<template>
  <section>
    <table class="grid-table max-w-[1100px]">
      <tbody>
        <tr v-for="p in people" :key="p.id">
          <td class="!pl-0 name">{{ p.name }}</td>
          <td>{{ p.email }}</td>
          <td>
            <select
              class="field"
              :value="p.role"
              :aria-label="`Role of ${p.name}`"
              @change="changePerson(p.id, { role: ($event.target as HTMLSelectElement).value as 'cash' })"
            >
              <option v-for="r in ROLES" :key="r" :value="r">{{ r }}</option>
            </select>
          </td>
          <td>
            <label class="flex items-center gap-2"
              ><input
                type="checkbox"
                class="tick"
                :checked="p.active"
                @change="changePerson(p.id, { active: !p.active })"
              />
              may sign in</label
            >
          </td>
          <td class="hint">{{ p.mustChange ? 'has not chosen a password yet' : '' }}</td>
          <td v-if="isOwn(p.email)" class="hint">you</td>
          <td v-else-if="giving.id === p.id">
            <form class="flex gap-2" @submit.prevent="give(p.id)">
              <input
                v-model="giving.password"
                v-focus
                class="field"
                type="password"
                :aria-label="`New password of ${p.name}`"
                placeholder="New password"
                minlength="10"
                required
                autocomplete="new-password"
                @keydown.esc.stop="giving.id = 0"
              /><button class="plain">Give</button>
            </form>
          </td>
          <td v-else class="whitespace-nowrap">
            <button class="plain mr-4" @click="Object.assign(giving, { id: p.id, password: '' })">
              New password
            </button>
            {{ ' ' }}
            <button class="plain" @click="signOut(p.id, p.name)">Sign out everywhere</button>
          </td>
        </tr>
      </tbody>
    </table>
    <form class="mt-3 flex flex-wrap items-baseline gap-4" @submit.prevent="addPerson">
      <input v-model="person.name" class="field" placeholder="Name" aria-label="Name" required /><input
        v-model="person.email"
        class="field"
        type="email"
        placeholder="E-mail"
        aria-label="E-mail"
        required
      /><select v-model="person.role" class="field" aria-label="Role">
        <option v-for="r in ROLES" :key="r" :value="r">{{ r }}</option></select
      ><input
        v-model="person.password"
        class="field"
        type="password"
        placeholder="First password"
        aria-label="First password"
        required
        minlength="10"
        autocomplete="new-password"
      /><button class="plain">Add a person</button>
    </form>
    <HandOverForm :people="people" />
    <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
  </section>
</template>
