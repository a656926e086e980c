<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { ref } from 'vue'
import { contract } from '~~/contract'
import type { Attachment } from '~~/contract/attachments'
import { useGuard } from '~/composables/guard'
import { call } from '~/utils/api'
import { dateText } from '~/utils/format'
import { fill, put } from '~/utils/fill'

/** The scan of what was signed: one of the files on the account, or a new one that is put there. */
const props = defineProps<{ customer: string; of: string }>()
const chosen = defineModel<number | null>({ required: true })
const files = ref<Attachment[]>([])
const { trouble, guard } = useGuard()
watchDebounced(
  () => props.customer,
  async number => {
    files.value = []
    // An account that is not there (yet) is told of when the mandate is saved.
    await fill(files, async () =>
      number
        ? call(contract.attachments.list, { params: { number } }).then(
            found => found.items,
            () => [],
          )
        : [],
    )
  },
  { debounce: 300, immediate: true },
)
async function lay(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  await guard(async () => {
    const kept = (await call(contract.attachments.add, {
      params: { number: props.customer },
      query: { name: file.name, text: `Mandate ${props.of}`.trim() },
      body: file,
    })) as Attachment
    put(files, own => [kept, ...own])
    chosen.value = kept.id
  }, `${file.name} lies on the account now.`)
  input.value = ''
}
</script>

<template>
  <span class="flex items-baseline gap-1.5"
    ><label class="label" for="m-scan">Scan</label
    ><select id="m-scan" v-model="chosen" class="field max-w-[220px]" :disabled="!customer">
      <option :value="null">none</option>
      <option v-for="f in files" :key="f.id" :value="f.id">{{ f.name }}, {{ dateText(f.date) }}</option>
    </select>
    <label v-if="customer" class="plain cursor-pointer"
      >another file<input
        type="file"
        accept=".pdf,.png,.jpg,.jpeg,.eml"
        class="sr-only"
        aria-label="A scan from this machine"
        @change="lay"
    /></label>
    <span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span></span
  >
</template>
