<script setup lang="ts">
/** What is shown instead of a page that failed. */
const home = () => clearError({ redirect: '/' })
</script>

<template>
  <main class="grid min-h-screen place-items-center bg-paper p-6">
    <div class="w-[420px] bg-sheet px-8 py-9">
      <h1 class="mb-3">This page did not come</h1>
      <p class="mb-5">Nothing that was posted is lost. Load it again; tell us if it happens twice.</p>
      <button v-focus class="go" @click="home">To Today</button>
    </div>
  </main>
</template>
