<script setup lang="ts">
import { reactive, ref } from 'vue'
import { useSettingsForm } from '~/composables/settingsForm'

const { settings: s, may, trouble, save } = useSettingsForm()
const form = reactive({ company: s.company, timeZone: s.timeZone, base: s.base, house: { ...s.house } })
/** The day begins there, and stamps are shown in it. */
const zones = [...new Set([s.timeZone, ...Intl.supportedValuesOf('timeZone')])].sort()
const FIELDS = [
  { key: 'street', label: 'Street and number', width: 'w-[260px]' },
  { key: 'postcode', label: 'Postcode', width: 'w-[90px]' },
  { key: 'city', label: 'Town', width: 'w-[180px]' },
  { key: 'country', label: 'Country', width: 'w-[60px]', hint: 'two letters, such as IE' },
  { key: 'vatNumber', label: 'Tax number', width: 'w-[160px]' },
  { key: 'email', label: 'E-mail', width: 'w-[220px]' },
  { key: 'phone', label: 'Telephone', width: 'w-[160px]' },
  { key: 'bank', label: 'Bank', width: 'w-[180px]' },
  { key: 'iban', label: 'IBAN', width: 'w-[260px]', hint: 'where customers pay to' },
  { key: 'bic', label: 'BIC', width: 'w-[120px]' },
] as const
const picture = ref<HTMLInputElement | null>(null)

/** A PNG or JPEG as base64, as the letters take it. */
async function takeLogo(file: File | undefined): Promise<void> {
  if (!file) return
  const bytes = new Uint8Array(await file.arrayBuffer())
  let binary = ''
  for (const byte of bytes) binary += String.fromCharCode(byte)
  form.house.logo = btoa(binary)
}
const logoUrl = () =>
  `data:image/${form.house.logo.startsWith('iVBOR') ? 'png' : 'jpeg'};base64,${form.house.logo}`
</script>

<template>
  <form
    class="setup-form"
    @submit.prevent="
      save({
        company: form.company,
        timeZone: form.timeZone,
        house: form.house,
        ...(form.base === s.base ? {} : { base: form.base }),
      })
    "
  >
    <label class="label" for="company">Name</label
    ><input id="company" v-model="form.company" class="field w-[260px]" :disabled="!may" required />
    <template v-for="f in FIELDS" :key="f.key"
      ><label class="label" :for="f.key">{{ f.label }}</label
      ><span
        ><input :id="f.key" v-model="form.house[f.key]" class="field" :class="f.width" :disabled="!may" />
        {{ ' ' }}
        <span v-if="'hint' in f" class="hint">{{ f.hint }}</span></span
      ></template
    >
    <span class="label">Logo on letters</span
    ><span class="flex items-center gap-4"
      ><img v-if="form.house.logo" :src="logoUrl()" alt="The logo" class="max-h-10 max-w-[160px]" /><span
        v-else
        class="hint"
        >none: a PNG or JPEG of at most 200 kB</span
      ><input
        ref="picture"
        type="file"
        accept="image/png,image/jpeg"
        class="sr-only"
        tabindex="-1"
        aria-label="Picture of the logo"
        @change="takeLogo(($event.target as HTMLInputElement).files?.[0])"
      /><button v-if="may" type="button" class="plain" @click="picture?.click()">Choose</button
      ><button v-if="may && form.house.logo" type="button" class="plain" @click="form.house.logo = ''">
        Take it off
      </button></span
    >
    <label class="label" for="zone">Time zone</label
    ><select id="zone" v-model="form.timeZone" class="field w-[200px]" :disabled="!may">
      <option v-for="z in zones" :key="z" :value="z">{{ z.replace(/_/g, ' ') }}</option>
    </select>
    <label class="label" for="base">Base currency</label
    ><span
      ><input id="base" v-model="form.base" class="field w-16" maxlength="3" :disabled="!may" />
      <span class="hint">stays once anything is posted</span></span
    >
    <span /><button v-if="may" class="go justify-self-start">Save</button>
  </form>
  <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
</template>
