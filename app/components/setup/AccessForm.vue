<script setup lang="ts">
import { reactive } from 'vue'
import { contract } from '~~/contract'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'

/** Who is let in: how long a sign-in lasts, by which names we are reached, which proxies are believed. */
const session = useSession()
const { trouble, guard } = useGuard()
const now = session.settings!.access!
const form = reactive({
  idleMinutes: now.idleMinutes,
  absoluteHours: now.absoluteHours,
  hosts: now.hosts.join(', '),
  proxies: now.proxies.join(', '),
})
const listIn = (text: string) => text.split(/[\s,;]+/).filter(Boolean)
const save = () =>
  guard(async () => {
    session.settings = await call(contract.setup.changeSettings, {
      body: { access: { ...form, hosts: listIn(form.hosts), proxies: listIn(form.proxies) } },
    })
  }, 'Access saved.')
</script>

<template>
  <section>
    <form class="flex flex-wrap items-baseline gap-x-6 gap-y-3" @submit.prevent="save">
      <span
        ><label class="label" for="idle">A sign-in ends after minutes without work </label
        ><input
          id="idle"
          v-model.number="form.idleMinutes"
          type="number"
          min="5"
          max="720"
          class="field w-16"
          required
      /></span>
      <span
        ><label class="label" for="absolute">and in any case after hours </label
        ><input
          id="absolute"
          v-model.number="form.absoluteHours"
          type="number"
          min="1"
          max="24"
          class="field w-14"
          required
      /></span>
      <span
        ><label class="label" for="hosts">Reached by the names </label
        ><input id="hosts" v-model="form.hosts" class="field w-[220px]" placeholder="this machine only"
      /></span>
      <span
        ><label class="label" for="proxies">Proxies to believe </label
        ><input
          id="proxies"
          v-model="form.proxies"
          class="field w-[180px]"
          placeholder="none"
          title="Addresses or ranges such as 10.0.0.0/8, whose X-Forwarded-For tells where a caller is"
      /></span>
      <button class="plain">Save</button>
    </form>
    <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
  </section>
</template>
