<script setup lang="ts">
import { computed, ref } from 'vue'
import { contract } from '~~/contract'
import { METHODS, RISK_CLASSES, STATEMENT_CYCLES } from '~~/core/accounts'
import type { ClassRow } from '~~/contract/accounts/classes'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { plural } from '~/utils/format'
import { fill, put } from '~/utils/fill'

/** Each class with what its customers inherit. */
const session = useSession()
const { trouble, guard, complain } = useGuard()
const may = computed(() => session.can('policy.edit'))
const classes = ref<ClassRow[]>([])
const policies = ref<{ code: string; name: string }[]>([])
const fresh = ref('')
const read = async () => {
  await fill(classes, async () => (await call(contract.accounts.classes)).items)
}
void read().catch(complain)
void fill(policies, async () => (await call(contract.reminders.policies)).items).catch(complain)
const save = (row: ClassRow) =>
  guard(async () => {
    const { code, customers: _, waiting: __, ...body } = row
    const { items, waiting } = await call(contract.accounts.changeClass, { params: { code }, body })
    // What is typed into the other classes meanwhile stays.
    const saved = items.find(c => c.code === code)!
    put(classes, all => all.map(c => (c.code === code ? saved : c)))
    await session.readSettings()
    if (waiting) trouble.value = 'Saved; the limit waits for a second person under Sign-off.'
  }, `${row.name} saved.`)
const add = () =>
  guard(async () => {
    const body = {
      ...{ code: fresh.value.toLowerCase(), name: fresh.value, terms: 'net 30', method: 'transfer' },
      ...{ policy: 'standard', riskClass: '', statementCycle: 'none', refunds: 'yes', keepOnItem: false },
    }
    const { items } = await call(contract.accounts.createClass, { body })
    put(classes, all => items.map(c => all.find(own => own.code === c.code) ?? c))
    await session.readSettings()
    fresh.value = ''
  }, 'Class added.')
</script>

<template>
  <p v-if="trouble" class="wrong mb-2" role="alert">{{ trouble }}</p>
  <form
    v-for="c in classes"
    :key="c.code"
    class="border-t border-rule py-3"
    :aria-label="c.name"
    @submit.prevent="save(c)"
  >
    <div class="mb-2 flex items-baseline gap-4">
      <input v-model="c.name" class="field w-[180px]" :disabled="!may" aria-label="Name of the class" />
      <span class="hint">{{ c.code }}, {{ plural(c.customers, 'customer') }}</span>
      <NuxtLink v-if="c.waiting" class="plain" :to="`/sign-off?id=${c.waiting}`"
        >its limit waits for a second person</NuxtLink
      >
      <button v-if="may" class="plain ml-auto">Save</button>
    </div>
    <div class="flex flex-wrap gap-x-6 gap-y-2">
      <label class="label">Terms <input v-model="c.terms" class="field w-[140px]" :disabled="!may" /></label
      ><label class="label"
        >Pays by
        <select v-model="c.method" class="field" :disabled="!may">
          <option v-for="(label, key) in METHODS" :key="key" :value="key">{{ label }}</option>
        </select></label
      ><label class="label"
        >Reminders
        <select v-model="c.policy" class="field" :disabled="!may">
          <option v-for="p in policies" :key="p.code" :value="p.code">{{ p.name }}</option>
        </select></label
      ><label class="label"
        >Risk
        <select v-model="c.riskClass" class="field" :disabled="!may">
          <option value="">none</option>
          <option v-for="(label, key) in RISK_CLASSES" :key="key" :value="key">{{ key }}, {{ label }}</option>
        </select></label
      ><label class="label"
        >Statements
        <select v-model="c.statementCycle" class="field" :disabled="!may">
          <option v-for="(label, key) in STATEMENT_CYCLES" :key="key" :value="key">{{ label }}</option>
        </select></label
      ><label class="label"
        >Refunds
        <select v-model="c.refunds" class="field" :disabled="!may">
          <option value="yes">allowed</option>
          <option value="no">not allowed</option>
        </select></label
      ><span class="label"
        >Limit, {{ session.base }}
        <MoneyField
          v-model="c.creditLimit"
          :currency="session.base"
          label="Limit of the class"
          placeholder="none" /></span
      ><label class="label flex items-center gap-1.5"
        ><input v-model="c.keepOnItem" type="checkbox" class="tick" :disabled="!may" /> an overpayment may
        stay on the item</label
      >
    </div>
  </form>
  <form v-if="may" class="mt-2 flex items-baseline gap-3 border-t border-rule pt-3" @submit.prevent="add">
    <input
      v-model="fresh"
      class="field w-[180px]"
      placeholder="Name of a new class"
      aria-label="Name of a new class"
      required
      maxlength="24"
    />
    <button class="plain">Add a class</button>
  </form>
</template>
