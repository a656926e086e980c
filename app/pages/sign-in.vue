<script setup lang="ts">
import { ref } from 'vue'
import { useSession } from '~/stores/session'
import { problemText } from '~/utils/api'

definePageMeta({ layout: false })
const session = useSession()
const route = useRoute()
const email = ref('')
const password = ref('')
const trouble = ref('')
const busy = ref(false)
async function enter(): Promise<void> {
  busy.value = true
  try {
    await session.signIn(email.value.trim(), password.value)
    const to = String(route.query.to ?? '/')
    await navigateTo(to.startsWith('/') && !to.startsWith('//') ? to : '/')
  } catch (error) {
    trouble.value = problemText(error)
    password.value = ''
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="grid min-h-full place-items-center bg-paper p-6">
    <form class="w-[340px] bg-sheet px-8 py-9" @submit.prevent="enter">
      <div class="mb-6 flex items-center gap-3">
        <i class="grid w-[22px] gap-[2px]" aria-hidden="true"
          ><b
            v-for="n in [1, 3, 5]"
            :key="n"
            class="block h-[5px]"
            :style="{ background: `var(--age-${n})` }"
        /></i>
        <h1>Bilancio</h1>
      </div>
      <label class="label block" for="email">E-mail</label>
      <input
        id="email"
        v-model="email"
        v-focus
        class="field mb-4 w-full"
        type="email"
        autocomplete="username"
        required
      />
      <label class="label block" for="password">Password</label>
      <input
        id="password"
        v-model="password"
        class="field mb-5 w-full"
        type="password"
        autocomplete="current-password"
        required
        :aria-invalid="Boolean(trouble)"
      />
      <p v-if="trouble" class="wrong mb-3" role="alert">{{ trouble }}</p>
      <button class="go w-full" :disabled="busy">Sign in</button>
    </form>
  </main>
</template>
