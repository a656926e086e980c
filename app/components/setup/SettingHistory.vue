<script setup lang="ts">
import type { z } from 'zod'
import { contract } from '~~/contract'
import { usePages } from '~/composables/pages'
import { call } from '~/utils/api'
import { timeText } from '~/utils/format'

/** Changes of settings, the newest first. */
type Page = z.output<NonNullable<typeof contract.books.audit.response>>
const { rows, answer, trouble, more } = usePages<Page['items'][number], Page>(
  cursor => call(contract.books.audit, { query: { what: 'setting', limit: 40, cursor } }),
  [],
)
/** Values are kept as JSON; words and numbers are shown bare. */
const shown = (value: string | null) => (value ?? 'nothing').replace(/^"(.*)"$/, '$1').slice(0, 240)
</script>

<template>
  <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
  <table v-else-if="rows.length" class="grid-table">
    <thead>
      <tr>
        <th class="!pl-0">When</th>
        <th>Who</th>
        <th>Setting</th>
        <th>Was</th>
        <th>Became</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="r in rows" :key="r.id">
        <td class="!pl-0">{{ timeText(r.at) }}</td>
        <td>{{ r.by }}</td>
        <td>{{ r.about }}</td>
        <td class="max-w-[260px] break-words !whitespace-normal text-soft">{{ shown(r.before) }}</td>
        <td class="max-w-[260px] break-words !whitespace-normal">{{ shown(r.after) }}</td>
      </tr>
    </tbody>
  </table>
  <p v-else class="hint">Nothing was changed yet.</p>
  <button v-if="answer?.next" class="plain mt-3" @click="more">Earlier ones</button>
</template>
