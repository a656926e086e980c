<script setup lang="ts">
import { reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { Deputy } from '~~/contract/signOff'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText } from '~/utils/format'
import { newest } from '~/utils/fill'

/** Who signs in one's place while one is away. */
const session = useSession()
const { trouble, guard, complain } = useGuard()
const deputies = ref<Deputy[]>([])
const people = ref<{ email: string; name: string }[]>([])
const form = reactive({ deputy: '', from: session.today, until: session.today })
const adding = ref(false)
const asking = newest()
async function read(): Promise<void> {
  const isNewest = asking()
  const answer = await call(contract.signOff.deputies)
  if (!isNewest()) return
  deputies.value = answer.items
  people.value = answer.people.filter(p => p.email !== session.session?.person.email)
}
void read().catch(complain)
const add = () =>
  guard(async () => {
    await call(contract.signOff.addDeputy, { body: { ...form } })
    adding.value = false
    await read()
  }, 'A deputy is named.')
const end = (id: number) =>
  guard(async () => {
    await call(contract.signOff.removeDeputy, { params: { id } })
    await read()
  }, 'Ended.')
const isOwn = (d: Deputy) => d.absent === session.session?.person.name
</script>

<template>
  <div class="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-t border-rule px-[18px] py-2">
    <span v-for="d in deputies" :key="d.id"
      >{{ d.deputy }} signs for {{ isOwn(d) ? 'you' : d.absent }}, {{ dateText(d.from) }} to
      {{ dateText(d.until) }}
      <button v-if="isOwn(d)" class="plain !py-0" @click="end(d.id)">end</button></span
    >
    <button v-if="!adding" class="plain !py-0" @click="adding = true">Name a deputy</button>
    <form v-else class="flex flex-wrap items-baseline gap-3" @submit.prevent="add">
      <select v-model="form.deputy" v-focus class="field" aria-label="Deputy" required>
        <option value="">who signs for you</option>
        <option v-for="p in people" :key="p.email" :value="p.email">{{ p.name }}</option>
      </select>
      <DateField v-model="form.from" label="From" :today="session.today" />
      <DateField v-model="form.until" label="Until" :today="session.today" />
      <button class="plain">Name</button>
      <button type="button" class="plain" @click="adding = false">Leave it</button>
    </form>
    <span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span>
  </div>
</template>
