<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { useStorage } from '@vueuse/core'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'

const session = useSession()
const desk = useDesk()
const look = useStorage<'light' | 'dark' | 'system'>('bilancio-look', 'system')
const short = (name: string) => name.replace(/^(\S)\S* (.*)$/, '$1. $2')
</script>

<template>
  <div class="ml-auto flex items-center gap-3 lg:ml-0">
    <Menu as="div" class="relative">
      <MenuButton class="whitespace-nowrap" data-test="person"
        >{{ short(session.session?.person.name ?? '')
        }}<span class="hint max-md:hidden">, {{ session.session?.person.role }}</span></MenuButton
      >
      <MenuItems
        class="absolute right-0 z-40 mt-2 w-52 border border-strong bg-sheet py-1 shadow-lg outline-none"
      >
        <MenuItem v-for="way in ['light', 'dark', 'system'] as const" :key="way" v-slot="{ active }"
          ><button
            class="flex w-full justify-between px-3 py-1.5"
            :class="active ? 'bg-row' : ''"
            @click="look = way"
          >
            <span>{{ { light: 'Light', dark: 'Dark', system: 'As the system' }[way] }}</span><span
              v-if="look === way"
              class="hint"
              >now</span
            >
          </button></MenuItem
        >
        <div class="my-1 border-t border-rule" />
        <MenuItem v-slot="{ active }"
          ><NuxtLink to="/setup/you" class="block px-3 py-1.5" :class="active ? 'bg-row' : ''"
            >Change password</NuxtLink
          ></MenuItem
        >
        <MenuItem v-slot="{ active }"
          ><NuxtLink to="/setup/you" class="block px-3 py-1.5" :class="active ? 'bg-row' : ''"
            >Where you are signed in</NuxtLink
          ></MenuItem
        >
        <MenuItem v-slot="{ active }"
          ><button
            class="w-full px-3 py-1.5 text-left"
            :class="active ? 'bg-row' : ''"
            @click="session.signOut()"
          >
            Sign out
          </button></MenuItem
        >
      </MenuItems>
    </Menu>
    <button class="max-md:hidden" aria-label="Keys of this screen" @click="desk.keysShown = true">
      <kbd>?</kbd>
    </button>
  </div>
</template>
