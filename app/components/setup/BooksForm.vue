<script setup lang="ts">
import { reactive } from 'vue'
import { useSettingsForm } from '~/composables/settingsForm'

const { settings: s, may, trouble, save } = useSettingsForm()
const form = reactive({ closedUntil: s.closedUntil ?? '' })
</script>

<template>
  <form class="setup-form" @submit.prevent="save({ closedUntil: form.closedUntil || null })">
    <label class="label" for="closed">Closed up to</label
    ><span
      ><input
        id="closed"
        v-model="form.closedUntil"
        class="field w-[120px]"
        placeholder="YYYY-MM-DD"
        :disabled="!may"
      />
      <span class="hint">nothing is posted on or before that day</span></span
    >
    <span /><button v-if="may" class="go justify-self-start">Save</button>
  </form>
  <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
  <div class="mt-6 grid gap-10 md:grid-cols-2">
    <section>
      <h3 class="mb-2">Chart of accounts</h3>
      <table class="grid-table">
        <tbody>
          <tr v-for="a in s.chart" :key="a.number">
            <td class="!pl-0 font-semibold">{{ a.number }}</td>
            <td>{{ a.name }}</td>
            <td class="text-soft">{{ a.type }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <section>
      <h3 class="mb-2">Number series</h3>
      <table class="grid-table">
        <tbody>
          <tr v-for="x in s.series" :key="x.name">
            <td class="!pl-0">{{ x.name }}</td>
            <td class="num">next {{ x.prefix }}{{ x.next }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>
