<script setup lang="ts">
import { ref } from 'vue'
import { useSession } from '~/stores/session'
import { contract } from '~~/contract'
import { call, problemText } from '~/utils/api'
import { fill } from '~/utils/fill'

definePageMeta({ layout: false })
const session = useSession()
const route = useRoute()
const email = ref('')
const password = ref('')
const trouble = ref('')
const busy = ref(false)
/** The password was given by somebody else: one of their own is chosen before anything is shown. */
const choosing = ref(false)
const own = ref('')
const again = ref('')
async function goOn(): Promise<void> {
  const to = String(route.query.to ?? '/')
  await navigateTo(to.startsWith('/') && !to.startsWith('//') ? to : '/')
}
async function choose(): Promise<void> {
  if (own.value !== again.value) {
    trouble.value = 'The two are not the same: type the new password again.'
    again.value = ''
    return
  }
  busy.value = true
  try {
    await session.choosePassword(password.value, own.value)
    await goOn()
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
/** While the demo is loaded, its people: one click each. */
const demo = ref<Demo | null>(null)
type Demo = Awaited<ReturnType<typeof readDemo>>
const readDemo = () => call(contract.people.demo)
void fill(demo, readDemo).catch(error => {
  trouble.value = problemText(error)
})
function enterAs(who: string): Promise<void> {
  email.value = who
  password.value = demo.value?.password ?? ''
  return enter()
}
async function enter(): Promise<void> {
  busy.value = true
  try {
    await session.signIn(email.value.trim(), password.value)
    trouble.value = ''
    if (session.session?.mustChange) choosing.value = true
    else await goOn()
  } catch (error) {
    trouble.value = problemText(error)
    password.value = ''
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="flex min-h-full flex-col items-center justify-center bg-paper p-6">
    <form class="w-[340px] bg-sheet px-8 py-9" @submit.prevent="choosing ? choose() : enter()">
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
      <template v-if="choosing">
        <h2 class="mb-1">Choose your password</h2>
        <p class="hint mb-4">
          The one you had was given to you, so somebody else knows it. At least 10 characters; three words do
          well.
        </p>
        <label class="label block" for="own">New password</label>
        <input
          id="own"
          v-model="own"
          v-focus
          class="field mb-4 w-full"
          type="password"
          autocomplete="new-password"
          minlength="10"
          required
          :aria-invalid="Boolean(trouble)"
        />
        <label class="label block" for="again">The same again</label>
        <input
          id="again"
          v-model="again"
          class="field mb-5 w-full"
          type="password"
          autocomplete="new-password"
          required
        />
        <p v-if="trouble" class="wrong mb-3" role="alert">{{ trouble }}</p>
        <button class="go w-full" :disabled="busy">Keep it and go on</button>
      </template>
      <template v-else>
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
      </template>
    </form>
    <section v-if="demo?.items.length && !choosing" class="mt-6 w-[340px] px-8" data-test="demo">
      <h2 class="mb-1">The demo’s people</h2>
      <ul>
        <li v-for="p in demo.items" :key="p.email">
          <button class="block w-full py-1.5 text-left" :disabled="busy" @click="enterAs(p.email)">
            <span class="makes font-semibold">{{ p.name }}</span>, {{ p.role }}
            <span class="hint block">{{ p.does }}</span>
          </button>
        </li>
      </ul>
    </section>
  </main>
</template>
