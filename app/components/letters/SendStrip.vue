<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import { useKeys, type Key } from '~/composables/keys'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText, urlOf } from '~/utils/api'
import { fill } from '~/utils/fill'

/**
 * What goes out from every list with two keys: a statement to the customer of the Card, a copy of the item
 * that the cursor is on, or a word to a colleague. The first key says what would go to whom, Enter sends it.
 */
const desk = useDesk()
const session = useSession()
const trouble = ref('')
const busy = ref(false)
const people = ref<{ email: string; name: string; role: string }[]>([])
const to = ref('')
const words = ref('')
const due = ref('')
const what = computed(() => desk.sending)
const card = computed(() => desk.card)
const item = computed(() => (desk.item?.customer === card.value?.number ? desk.item : null))
watch(what, async now => {
  trouble.value = ''
  if (now !== 'message') return
  words.value = ''
  due.value = ''
  try {
    await fill(people, async () => (await call(contract.messages.people)).items)
    if (!people.value.some(p => p.email === to.value)) to.value = people.value[0]?.email ?? ''
  } catch (error) {
    trouble.value = problemText(error)
  }
})
const seen = computed(() =>
  what.value === 'copy'
    ? urlOf(contract.letters.copy, { id: item.value?.id })
    : urlOf(contract.letters.statement, { number: card.value?.number }),
)
async function post(): Promise<string> {
  const { number, name } = card.value!
  if (what.value === 'message') {
    const { id } = item.value ?? { id: null }
    await call(contract.messages.write, {
      body: {
        customer: number,
        to: to.value,
        text: words.value,
        about: id === null ? 'account' : item.value!.isReceipt ? 'receipt' : 'item',
        aboutId: id,
        due: due.value || null,
      },
    })
    return `On its way to ${people.value.find(p => p.email === to.value)?.name}.`
  }
  const sent =
    what.value === 'copy'
      ? await call(contract.letters.sendCopy, { params: { id: item.value!.id }, body: {} })
      : await call(contract.letters.sendStatement, { params: { number }, body: { form: 'open-item' } })
  return sent.channel === 'email'
    ? `On its way to ${sent.recipient}.`
    : `${name} has no e-mail address: it waits under Outbox to be printed.`
}
async function send(): Promise<void> {
  if (busy.value || !card.value) return
  busy.value = true
  try {
    const text = await post()
    desk.sending = null
    desk.say({ text })
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
useKeys([
  {
    key: '7',
    label: 'Send a statement to the customer of the Card',
    when: () => card.value !== null && session.can('letters.send'),
    run: () => {
      desk.sending = 'statement'
    },
  },
  {
    key: '8',
    label: 'Send a copy of the item',
    when: () => item.value !== null && !item.value.isReceipt && session.can('letters.send'),
    run: () => {
      desk.sending = 'copy'
    },
  },
  {
    key: '9',
    label: 'Write to a colleague about it',
    when: () => card.value !== null && session.can('messages.write'),
    run: () => {
      desk.sending = 'message'
    },
  },
])
/** While the strip is there Enter and Escape are its own. */
const strip: Key[] = [
  {
    key: 'Enter',
    label: '',
    when: () => what.value === 'statement' || what.value === 'copy',
    run: () => void send(),
  },
  {
    key: 'Escape',
    label: '',
    inFields: true,
    run: () => {
      desk.sending = null
    },
  },
]
const route = useRoute()
watch(
  () => route.path,
  () => {
    desk.sending = null
  },
)
</script>

<template>
  <section
    v-if="what && card"
    class="fixed inset-x-0 bottom-0 z-30 flex flex-wrap items-baseline gap-x-4 gap-y-1 border-t border-strong bg-wash px-[18px] py-2.5"
    aria-label="Send"
    data-test="send"
  >
    <ScreenKeys :keys="strip" />
    <template v-if="what !== 'message'">
      <span
        >{{ what === 'copy' ? `A copy of ${item?.number}` : 'A statement of account' }} to
        <b class="font-semibold">{{ card.name }}</b>,
        {{ card.email || 'by post: no e-mail address is known' }}</span
      >
      <a class="makes" :href="seen" target="_blank">see it</a>
      <button class="go !py-1" :disabled="busy" @click="send">
        Send <span class="font-normal opacity-70">↵</span>
      </button>
    </template>
    <form v-else class="flex min-w-0 flex-1 flex-wrap items-baseline gap-x-3" @submit.prevent="send">
      <span
        >About {{ item ? `${item.number} of ` : '' }}<b class="font-semibold">{{ card.name }}</b> to</span
      >
      <select v-model="to" class="field" aria-label="To whom">
        <option v-for="p in people" :key="p.email" :value="p.email">{{ p.name }}, {{ p.role }}</option>
      </select>
      <input
        v-model="words"
        v-focus
        class="field min-w-[220px] flex-1"
        required
        maxlength="1000"
        placeholder="What you want to say or ask"
        aria-label="Message"
        autocomplete="off"
      />
      <span
        ><label class="label" for="task-due">by </label
        ><DateField id="task-due" v-model="due" label="A task by" :today="session.today" :min="session.today"
      /></span>
      <button class="go !py-1" :disabled="busy || !words.trim()">
        Send <span class="font-normal opacity-70">↵</span>
      </button>
    </form>
    <button class="plain !py-0" @click="desk.sending = null">Leave <kbd>Esc</kbd></button>
    <span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span>
  </section>
</template>
