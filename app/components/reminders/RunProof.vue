<script setup lang="ts">
import { computed } from 'vue'
import type { Run } from '~~/contract/reminders'
import { useSession } from '~/stores/session'
import { plural } from '~/utils/format'

/** What confirming a run claims and posts, by currency; the button that does it. */
const props = defineProps<{ run: Run; may: boolean; role: string; busy: boolean; progress: string }>()
const emit = defineEmits<{ confirm: []; discard: [] }>()
const claimed = (s: Run['totals']['byCurrency'][number]) => s.overdue + s.fee + s.interest
const session = useSession()
const accountOf = (purpose: string) => session.settings?.chart.find(a => a.purpose === purpose)?.number ?? ''
const posts = computed(() => {
  const { fees, interest } = props.run.totals
  if (!fees && !interest) return 'Nothing is posted: no fee and no interest.'
  const what = [fees ? 'fees' : '', interest ? 'interest' : ''].filter(Boolean).join(' and ')
  return `${what.charAt(0).toUpperCase()}${what.slice(1)} become open items.`
})
</script>

<template>
  <section
    class="grid flex-none grid-cols-[minmax(0,1fr)_auto] border-t-2 border-ink"
    aria-label="Proof"
    data-test="run-proof"
  >
    <div class="px-[18px] py-2.5">
      <h6 class="part-head mb-1">Proof</h6>
      <table class="w-full max-w-[640px]">
        <thead>
          <tr class="text-soft">
            <th class="text-left font-normal">Currency</th>
            <th class="num font-normal">Notices</th>
            <th class="num font-normal">Overdue</th>
            <th class="num font-normal">Fees, to {{ accountOf('reminder-fees') }}</th>
            <th class="num font-normal">Interest, to {{ accountOf('late-interest') }}</th>
            <th class="num font-normal">Claimed</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in run.totals.byCurrency" :key="s.currency">
            <td>{{ s.currency }}</td>
            <td class="num">{{ s.notices }}</td>
            <td class="num"><Figure :amount="s.overdue" :currency="s.currency" /></td>
            <td class="num"><Figure :amount="s.fee" :currency="s.currency" /></td>
            <td class="num"><Figure :amount="s.interest" :currency="s.currency" /></td>
            <td class="num font-semibold"><Figure :amount="claimed(s)" :currency="s.currency" /></td>
          </tr>
        </tbody>
      </table>
      <p class="mt-1 text-soft">
        {{ posts }} {{ plural(run.totals.emails, 'e-mail') }}, {{ plural(run.totals.letters, 'letter') }} to
        print<template v-if="run.totals.warnings"
          >; {{ plural(run.totals.warnings, 'notice') }} to look at first</template
        >.
      </p>
    </div>
    <div v-if="may" class="flex flex-col justify-center gap-1.5 border-l border-rule px-[18px] py-2.5">
      <p v-if="progress" class="text-soft" role="status">{{ progress }}</p>
      <button
        class="go"
        :disabled="busy || !run.totals.notices || Boolean(progress)"
        data-test="confirm"
        @click="emit('confirm')"
      >
        Confirm and send <span class="font-normal opacity-70">Ctrl ↵</span></button
      ><button class="hint makes text-left" @click="emit('discard')">Discard the proposal</button>
    </div>
    <p v-else class="max-w-[200px] px-[18px] py-2.5 text-soft">A {{ role }} may not confirm reminders.</p>
  </section>
</template>
