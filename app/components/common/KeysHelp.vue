<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { keyText, shownKeys } from '~/composables/keys'
import { useFocusBack } from '~/composables/focus'
import { useDesk } from '~/stores/desk'

const desk = useDesk()
useFocusBack(() => desk.keysShown)
</script>

<template>
  <Dialog :open="desk.keysShown" class="relative z-50" @close="desk.keysShown = false">
    <div class="fixed inset-0 bg-black/20" aria-hidden="true" />
    <DialogPanel class="drawer fixed inset-y-0 right-0 w-[340px] overflow-y-auto p-5" tabindex="0">
      <DialogTitle as="h2">Keys of this screen</DialogTitle>
      <dl class="mt-4">
        <div
          v-for="k in shownKeys()"
          :key="k.key + k.label"
          class="flex justify-between border-b border-rule py-1.5"
        >
          <dt>{{ k.label }}</dt>
          <dd>
            <kbd>{{ keyText(k.key) }}</kbd>
          </dd>
        </div>
      </dl>
      <p class="hint mt-4">
        In a list the arrows move the row. In a form Tab moves on. <kbd>Esc</kbd> closes this.
      </p>
    </DialogPanel>
  </Dialog>
</template>
