<script setup lang="ts">
import { nextTick, onMounted, ref, toRef, watch } from 'vue'
import { DISPUTE_REASONS } from '~~/core/disputes'
import { OUTCOME_CODES, OUTCOMES } from '~~/core/callList'
import type { CallListRow } from '~~/contract/callList'
import { REASON_CODES, useCall } from '~/composables/chasing'
import { useKeys } from '~/composables/keys'
import { useSession } from '~/stores/session'
import { dateText, plural } from '~/utils/format'

/** The number to ring with all that is open, and what became of the call, in one line. */
const props = defineProps<{ row: Pick<CallListRow, 'customer' | 'contact' | 'phone' | 'email'> }>()
const emit = defineEmits<{ done: []; close: [] }>()
const session = useSession()
const number = ref<string | null>(props.row.customer.number)
watch(toRef(props, 'row'), row => (number.value = row.customer.number))
const { form, items, chosen, total, currency, parts, toggle, reason, trouble, saving, save } = useCall(number)
const outcome = ref<HTMLSelectElement | null>(null)
const focus = () => void nextTick(() => outcome.value?.focus())
onMounted(focus)
watch(number, focus)
async function log(): Promise<void> {
  if (await save()) emit('done')
}
useKeys([
  { key: 'Ctrl+Enter', label: 'Log the call, then the next', inFields: true, run: () => void log() },
  { key: 'Escape', label: 'Leave the call', inFields: true, run: () => emit('close') },
])
const isOf = (...codes: string[]) => codes.includes(form.outcome)
</script>

<template>
  <section
    class="on-paper grid max-h-[330px] grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)] border-t border-strong bg-paper"
    aria-label="Call"
    data-test="call"
  >
    <div class="flex min-h-0 flex-col border-r border-rule px-[18px] py-3">
      <p class="flex flex-wrap items-baseline gap-x-3">
        <a
          v-if="row.phone"
          class="makes font-serif text-[22px] text-accent"
          :href="`tel:${row.phone.replace(/\s/g, '')}`"
          >{{ row.phone }}</a><span v-else class="wrong">No number: add one under the account</span>
        <b class="font-semibold">{{ row.contact }}</b><span class="cents">{{ row.email }}</span>
      </p>
      <div class="mt-2 min-h-0 overflow-auto">
        <table class="grid-table flush" aria-label="Open items">
          <thead>
            <tr>
              <th>Open item</th>
              <th>Due</th>
              <th class="num">Days late</th>
              <th class="num">Open</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="i in items" :key="i.id" class="cursor-pointer" @click="toggle(i)">
              <td class="!h-[26px]">
                <label class="flex min-h-6 items-center gap-2"
                  ><input
                    type="checkbox"
                    class="tick"
                    :checked="chosen.has(i.id)"
                    :aria-label="i.number"
                    @click.stop
                    @change="toggle(i)"
                  />{{ i.number }}<span v-if="i.dispute" class="aside">disputed</span
                  ><span v-else-if="i.promise" class="aside"
                    >promised {{ dateText(i.promise.date) }}</span
                  ></label
                >
              </td>
              <td class="!h-[26px]">{{ dateText(i.dueDate) }}</td>
              <td class="num !h-[26px]" :class="i.daysLate > 0 ? '' : 'none'">
                {{ i.daysLate > 0 ? i.daysLate : '·' }}
              </td>
              <td class="num !h-[26px]"><Figure :amount="i.open" :currency="i.currency" /></td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="mt-auto flex justify-between border-t border-rule pt-1.5">
        <span class="text-soft">{{ plural(chosen.size, 'item') }} chosen</span
        ><b class="font-semibold"><Figure :amount="total" :currency="currency" zero /> {{ currency }}</b>
      </p>
    </div>
    <form class="flex flex-col gap-2.5 overflow-auto px-[18px] py-3" @submit.prevent="log">
      <div class="master-grid">
        <label class="label" for="outcome">What became of it</label>
        <select id="outcome" ref="outcome" v-model="form.outcome" class="field" data-test="outcome">
          <option value="" disabled>choose</option>
          <option v-for="code in OUTCOME_CODES" :key="code" :value="code">{{ OUTCOMES[code].label }}</option>
        </select>
        <template v-if="isOf('promised')">
          <label class="label" for="promised">Promised</label>
          <span class="flex flex-wrap items-baseline gap-2"
            ><MoneyField id="promised" v-model="form.amount" :currency="currency" label="Promised amount" />
            {{ currency }} for
            <DateField
              v-model="form.promiseDate"
              label="Promised for"
              :today="session.today"
              :min="session.today"
          /></span>
          <label class="label" for="instalments">in</label>
          <span class="flex flex-wrap items-baseline gap-2"
            ><input
              id="instalments"
              v-model.number="form.instalments"
              type="number"
              min="1"
              max="60"
              class="field w-14"
            />
            {{ form.instalments === 1 ? 'payment' : 'instalments, every' }}
            <template v-if="form.instalments > 1"
              ><input
                v-model.number="form.every"
                type="number"
                min="1"
                max="92"
                class="field w-14"
                aria-label="Days between instalments"
              />
              days, the last on {{ dateText(parts.at(-1)!.date) }}</template
            ></span
          >
        </template>
        <template v-if="isOf('disputed')">
          <label class="label" for="reason">Because of</label>
          <span class="flex flex-wrap items-baseline gap-2"
            ><select id="reason" v-model="form.reason" class="field">
              <option v-for="r in REASON_CODES" :key="r" :value="r">{{ DISPUTE_REASONS[r] }}</option></select
            ><MoneyField
              v-if="chosen.size === 1"
              v-model="form.amount"
              :currency="currency"
              label="Disputed amount"
            /><span v-else class="hint">each item whole</span></span
          >
        </template>
        <template v-if="isOf('copies')">
          <span class="label">Copies</span>
          <span class="text-soft">{{
            chosen.size
              ? `${plural(chosen.size, 'copy', 'copies')} go out as it is logged`
              : 'choose the items'
          }}</span>
        </template>
        <label class="label" for="said">What was said</label>
        <input id="said" v-model="form.text" class="field w-full" maxlength="500" autocomplete="off" />
        <label class="label" for="with">Spoke with</label>
        <input
          id="with"
          v-model="form.spokeWith"
          class="field w-full"
          maxlength="80"
          autocomplete="off"
          :placeholder="row.contact"
        />
        <label class="label" for="next">Ring again on</label>
        <span class="flex items-baseline gap-3"
          ><DateField
            id="next"
            v-model="form.nextDate"
            label="Ring again on"
            :today="session.today"
            :min="session.today"
          /><button v-if="form.nextDate" type="button" class="aside min-h-6" @click="form.nextDate = ''">
            no day
          </button></span
        >
      </div>
      <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
      <div class="mt-auto flex items-baseline gap-4">
        <button class="go" :disabled="Boolean(reason) || saving" data-test="log">
          Log it <span class="font-normal opacity-70">Ctrl ↵</span></button
        ><button type="button" class="plain" @click="emit('close')">Leave <kbd>Esc</kbd></button
        ><span v-if="reason" class="hint">{{ reason }}</span>
      </div>
    </form>
  </section>
</template>
