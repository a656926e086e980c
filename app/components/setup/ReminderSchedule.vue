<script setup lang="ts">
import { computed, reactive } from 'vue'
import { contract } from '~~/contract'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'

/** A weekly run that is prepared by itself, and waits on Today for a person. */
const session = useSession()
const { trouble, guard } = useGuard()
const may = computed(() => session.can('policy.edit'))
const now = session.settings?.reminderSchedule ?? null
const form = reactive({ weekday: now?.weekday ?? 0, levelOneBySelf: now?.levelOneBySelf ?? false })
const DAYS = ['never', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday']
const save = () =>
  guard(
    async () => {
      const reminderSchedule = form.weekday ? { ...form, policy: '' } : null
      session.settings = await call(contract.setup.changeSettings, { body: { reminderSchedule } })
    },
    form.weekday ? `A run is prepared every ${DAYS[form.weekday]}.` : 'No run is prepared by itself.',
  )
</script>

<template>
  <form class="mb-4 flex flex-wrap items-baseline gap-x-4 gap-y-1.5" @submit.prevent="save">
    <span
      ><label class="label" for="schedule-day">A run is prepared by itself every </label
      ><select id="schedule-day" v-model.number="form.weekday" class="field" :disabled="!may">
        <option v-for="(d, n) in DAYS" :key="d" :value="n">{{ d }}</option>
      </select></span
    >
    <label class="flex items-center gap-1.5"
      ><input v-model="form.levelOneBySelf" type="checkbox" class="tick" :disabled="!may || !form.weekday" />
      its first level goes out without a person</label
    >
    <button v-if="may" class="plain">Save</button>
    <span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span>
  </form>
</template>
