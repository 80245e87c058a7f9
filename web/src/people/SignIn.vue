<script setup lang="ts">
import { ref } from 'vue'

import { useSession } from './useSession'

const { signingIn } = useSession()
const name = ref('')
const password = ref('')
</script>

<template>
  <main class="gate">
    <form class="card" @submit.prevent="signingIn.mutate({ name, password })">
      <svg class="kite" viewBox="0 0 120 150" aria-hidden="true">
        <path d="M60 4 108 52 60 112 12 52z" fill="none" stroke="currentColor" stroke-width="1.5" />
        <path d="M60 4 108 52H12z" class="sail" />
        <path d="M60 4V112M12 52H108" stroke="currentColor" stroke-width="1" />
        <path d="M60 112q16 8 2 16t8 18" fill="none" stroke="currentColor" stroke-width="1.5" />
      </svg>
      <h1>Kite Glass</h1>
      <p class="quiet">Small photographs, made ready for large prints.</p>
      <v-text-field v-model="name" label="Name" autocomplete="username" autofocus />
      <v-text-field v-model="password" label="Password" type="password" autocomplete="current-password" />
      <p v-if="signingIn.error.value" class="fault" role="alert">{{ signingIn.error.value.message }}</p>
      <v-btn
        type="submit"
        color="primary"
        variant="flat"
        block
        height="40"
        :loading="signingIn.isPending.value"
        :disabled="!name || !password"
        >Sign in</v-btn
      >
    </form>
  </main>
</template>

<style scoped>
.gate {
  height: 100%;
  display: grid;
  place-items: center;
}
.card {
  width: 340px;
  display: flex;
  flex-direction: column;
  gap: 14px;
}
.kite {
  width: 84px;
  align-self: flex-start;
  color: rgba(var(--v-theme-on-surface), 0.75);
}
.sail {
  fill: rgb(var(--v-theme-primary));
  opacity: 0.85;
}
h1 {
  font-size: 28px;
  line-height: 1.1;
}
</style>
