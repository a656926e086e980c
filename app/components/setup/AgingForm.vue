<script setup lang="ts">
import { reactive } from 'vue'
import { useSettingsForm } from '~/composables/settingsForm'

const { settings: s, may, trouble, save } = useSettingsForm()
const form = reactive({
  bounds: s.bounds.join(', '),
  overdueTarget: s.overdueTarget as number | null,
  sets: s.bucketSets.map(b => ({ name: b.name, bounds: b.bounds.join(', ') })),
})
const boundsIn = (text: string) =>
  text
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map(Number)
</script>

<template>
  <form
    class="setup-form"
    @submit.prevent="
      save({
        bounds: boundsIn(form.bounds),
        overdueTarget: form.overdueTarget ?? 0,
        bucketSets: form.sets.map(b => ({ name: b.name, bounds: boundsIn(b.bounds) })),
      })
    "
  >
    <label class="label" for="bounds">Buckets end at days late</label
    ><input id="bounds" v-model="form.bounds" class="field w-[160px]" :disabled="!may" />
    <label class="label" for="target">Target for overdue, {{ s.base }}</label
    ><MoneyField
      id="target"
      v-model="form.overdueTarget"
      class="w-[140px]"
      :currency="s.base"
      label="Target for overdue"
    />
    <span class="label">Further sets of buckets</span>
    <div>
      <p v-for="(b, i) in form.sets" :key="i" class="mb-1 flex items-baseline gap-3">
        <input
          v-model="b.name"
          class="field w-[150px]"
          placeholder="Name"
          :aria-label="`Name of set ${i + 1}`"
          :disabled="!may"
          required
        /><input
          v-model="b.bounds"
          class="field w-[130px]"
          placeholder="15, 30, 45"
          :aria-label="`Set ${i + 1} ends at days late`"
          :disabled="!may"
          required
        /><button v-if="may" type="button" class="plain !py-0" @click="form.sets.splice(i, 1)">remove</button>
      </p>
      <button v-if="may" type="button" class="plain" @click="form.sets.push({ name: '', bounds: '' })">
        Add a set
      </button>
    </div>
    <span /><button v-if="may" class="go justify-self-start">Save</button>
  </form>
  <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
</template>
