<script setup lang="ts">
import { computed, ref, toRaw, watch } from 'vue'
import { contract } from '~~/contract'
import type { PolicyForm } from '~~/contract/reminders'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText } from '~/utils/format'
import { newest } from '~/utils/fill'

/** Reminder policies: their levels, interest and texts, from a day on. */
const session = useSession()
const { trouble, guard, complain } = useGuard()
const may = computed(() => session.can('policy.edit'))
const policies = ref<PolicyForm[]>([])
const coming = ref<{ code: string; validFrom: string; by: string }[]>([])
const chosen = ref('')
const form = ref<PolicyForm | null>(null)
const validFrom = ref(session.today)
const isNew = ref(false)
const newCode = ref('')

const asking = newest()
async function load(code = chosen.value): Promise<void> {
  const isNewest = asking()
  try {
    const answer = await call(contract.reminders.policies)
    if (!isNewest()) return
    policies.value = answer.items
    coming.value = answer.coming
    isNew.value = false
    chosen.value = answer.items.some(p => p.code === code) ? code : (answer.items[0]?.code ?? '')
    show()
  } catch (error) {
    complain(error)
  }
}
function show(): void {
  const found = policies.value.find(p => p.code === chosen.value)
  form.value = found ? structuredClone(toRaw(found)) : null
  validFrom.value = session.today
}
void load()
watch(chosen, () => {
  if (!isNew.value) show()
})
/** A new policy begins as a copy of the one that is shown. */
function begin(): void {
  if (!form.value) return
  isNew.value = true
  newCode.value = ''
  form.value = { ...structuredClone(toRaw(form.value)), name: '', version: 0 }
}
const save = () =>
  guard(
    async () => {
      const { code, validFrom: _, ...body } = form.value!
      // A language that was only looked at has no text.
      for (const level of body.levels)
        for (const [language, text] of Object.entries(level.texts))
          if (!text.subject && !text.body) delete level.texts[language]
      const to = isNew.value ? newCode.value : code
      await call(contract.reminders.changePolicy, {
        params: { code: to },
        body: { ...body, validFrom: validFrom.value },
      })
      await load(to)
    },
    `Policy saved, valid from ${dateText(validFrom.value)}.`,
  )

function addLevel(): void {
  const levels = form.value!.levels
  const last = structuredClone(toRaw(levels.at(-1)!))
  levels.push({ ...last, days: last.days + 14 })
}
</script>

<template>
  <section>
    <p v-if="trouble" class="wrong mb-2" role="alert">{{ trouble }}</p>
    <ReminderSchedule />
    <div class="mb-3 flex items-baseline gap-5">
      <span
        ><label class="label" for="policy-code">Policy </label
        ><select id="policy-code" v-model="chosen" class="field" :disabled="isNew">
          <option v-for="p in policies" :key="p.code" :value="p.code">{{ p.name }}</option>
        </select></span
      >
      <button v-if="may && !isNew" class="plain" @click="begin">A new policy like this</button>
      <button v-if="isNew" class="hint makes" @click="load()">Not after all</button>
      <span v-for="c in coming" :key="c.code + c.validFrom" class="hint"
        >{{ c.code }}: a version of {{ c.by }} holds from {{ dateText(c.validFrom) }}</span
      >
    </div>
    <form v-if="form" @submit.prevent="save">
      <div class="mb-2 flex flex-wrap items-baseline gap-x-5 gap-y-1.5">
        <span v-if="isNew"
          ><label class="label" for="policy-new">Short name </label
          ><input
            id="policy-new"
            v-model="newCode"
            class="field w-[110px]"
            placeholder="key-accounts"
            required /></span
        ><span
          ><label class="label" for="policy-name">Name </label
          ><input id="policy-name" v-model="form.name" class="field w-[220px]" :disabled="!may" required
        /></span>
        <span class="flex items-baseline gap-1.5"
          ><label class="label" for="policy-from">valid from</label
          ><DateField id="policy-from" v-model="validFrom" label="Valid from" :today="session.today"
        /></span>
        <button v-if="may" class="go ml-auto">Save the policy</button>
      </div>
      <p class="hint mb-3">
        Days before keep the version of then: a past run stays explained by it. It was last changed with
        effect from {{ dateText(form.validFrom) }}. An item moves up one level at a time.
      </p>
      <PolicyTerms v-model="form" :disabled="!may" />
      <PolicyLevel
        v-for="(_, i) in form.levels"
        :key="i"
        v-model="form.levels[i]!"
        :number="i + 1"
        :policy="form"
        :has-interest="form.interest !== null"
        :disabled="!may"
        @remove="form.levels.length > 1 && form.levels.splice(i, 1)"
      />
      <button v-if="may && form.levels.length < 9" type="button" class="plain mt-2" @click="addLevel">
        Another level
      </button>
    </form>
    <ReferenceRates />
  </section>
</template>
