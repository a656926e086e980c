<script setup lang="ts">
import { reactive } from 'vue'
import { contract } from '~~/contract'
import { useGuard } from '~/composables/guard'
import { call } from '~/utils/api'

const { trouble, guard } = useGuard()
const own = reactive({ current: '', password: '' })
const savePassword = () =>
  guard(async () => {
    await call(contract.people.changePassword, { body: own })
    Object.assign(own, { current: '', password: '' })
  }, 'Password changed.')
</script>

<template>
  <section id="password" class="border-t border-rule py-4">
    <h2 class="mb-2">Your password</h2>
    <form class="flex flex-wrap items-baseline gap-4" @submit.prevent="savePassword">
      <input
        v-model="own.current"
        class="field"
        type="password"
        placeholder="Current password"
        aria-label="Current password"
        autocomplete="current-password"
        required
      /><input
        v-model="own.password"
        class="field"
        type="password"
        placeholder="New, 10 characters or more"
        aria-label="New password"
        autocomplete="new-password"
        required
        minlength="10"
      /><button class="plain">Change</button>
    </form>
    <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
  </section>
</template>
