<script setup lang="ts">
import { useSession } from '~/stores/session'

/** Which customers count on a sheet: of a class, of a country. Empty: any. */
const ofClass = defineModel<string>('ofClass', { required: true })
const country = defineModel<string>('country', { required: true })
const session = useSession()
</script>

<template>
  <span
    ><label class="label" for="class">Class </label
    ><select id="class" v-model="ofClass" class="field w-[84px]">
      <option value="">any</option>
      <option v-for="k in session.settings?.classes ?? []" :key="k.code" :value="k.code">
        {{ k.name }}
      </option>
    </select></span
  >
  <span
    ><label class="label" for="country">Country </label
    ><select id="country" v-model="country" class="field">
      <option value="">any</option>
      <option v-for="c in session.settings?.countries ?? []" :key="c" :value="c">{{ c }}</option>
    </select></span
  >
</template>
