<script setup lang="ts">
import { computed, reactive } from 'vue'
import { SCORE_PART_NAMES, SCORE_PARTS, WEIGHTS, type Weights } from '~~/core/review'
import { useSettingsForm } from '~/composables/settingsForm'

/** The weights of the parts of the score: seen by all, changed by who sets the policy. */
const emit = defineEmits<{ saved: [] }>()
const { settings, may, trouble, save } = useSettingsForm()
const weights = reactive<Weights>({ ...settings.reviewWeights })
const whole = computed(() => SCORE_PART_NAMES.reduce((sum, name) => sum + (Number(weights[name]) || 0), 0))
const share = (name: keyof Weights) =>
  whole.value > 0 ? `${Math.round((100 * (Number(weights[name]) || 0)) / whole.value)} %` : '·'
async function keep(): Promise<void> {
  await save({ reviewWeights: { ...weights } }, 'Weights saved. Scores and probabilities are learnt anew.')
  if (!trouble.value) emit('saved')
}
</script>

<template>
  <form
    class="border-y border-rule px-[18px] py-3"
    aria-label="Weights"
    data-test="weights"
    @submit.prevent="keep"
  >
    <table class="grid-table flush max-w-[760px]">
      <tbody>
        <tr v-for="name in SCORE_PART_NAMES" :key="name">
          <td>
            <label :for="`w-${name}`">{{ SCORE_PARTS[name].label }}</label>
          </td>
          <td class="hint w-full">{{ SCORE_PARTS[name].scale }}</td>
          <td>
            <input
              :id="`w-${name}`"
              v-model.number="weights[name]"
              type="number"
              min="0"
              max="100"
              class="field w-[70px] text-right"
              :disabled="!may"
            />
          </td>
          <td class="num w-[60px]">{{ share(name) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="may" class="mt-2 flex gap-4">
      <button class="go" type="submit">Save weights</button
      ><button class="plain" type="button" @click="Object.assign(weights, WEIGHTS)">As they came</button>
    </p>
    <p v-else class="hint mt-2">Supervisors change them.</p>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
  </form>
</template>
