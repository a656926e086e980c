<script setup lang="ts">
import { reactive } from 'vue'
import { useSettingsForm } from '~/composables/settingsForm'

const { settings: s, may, trouble, save } = useSettingsForm()
const form = reactive({ bounds: s.bounds.join(', '), overdueTarget: s.overdueTarget as number | null })
const boundsIn = (text: string) =>
  text
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map(Number)
</script>

<template>
  <form
    class="setup-form"
    @submit.prevent="save({ bounds: boundsIn(form.bounds), overdueTarget: form.overdueTarget ?? 0 })"
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
    <span /><button v-if="may" class="go justify-self-start">Save</button>
  </form>
  <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
</template>
