<script setup lang="ts">
import { useMutation } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'

/** Change the password one signs in with. */
const notice = useNotice()
const [old, wanted, again] = [ref(''), ref(''), ref('')]
const differs = computed(() => again.value !== '' && again.value !== wanted.value)
const change = useMutation({
  mutationFn: () => answer(server.PUT('/api/password', { body: { old: old.value, new: wanted.value } })),
  onSuccess: () => {
    old.value = wanted.value = again.value = ''
    notice.say('The password is changed. You are signed out everywhere but here.')
  },
})
const ready = computed(() => old.value && wanted.value && again.value === wanted.value)
</script>

<template>
  <form class="fields" aria-label="Password" @submit.prevent="ready && change.mutate()">
    <h2 class="wide">Password</h2>
    <v-text-field
      v-model="old"
      class="wide"
      label="The one you sign in with now"
      type="password"
      autocomplete="current-password"
      maxlength="200"
    />
    <v-text-field v-model="wanted" label="New password" type="password" autocomplete="new-password" maxlength="200" />
    <v-text-field
      v-model="again"
      label="The new one again"
      type="password"
      autocomplete="new-password"
      maxlength="200"
      :error-messages="differs ? 'Not the same as the new one.' : ''"
    />
    <p v-if="change.error.value" role="alert" class="wide fault">{{ change.error.value.message }}</p>
    <div class="wide d-flex align-center justify-end ga-4">
      <span class="small quiet">Every other place you are signed in at is signed out.</span>
      <v-btn type="submit" variant="tonal" :disabled="!ready" :loading="change.isPending.value">Change it</v-btn>
    </div>
  </form>
</template>

<style scoped>
.fields {
  align-items: start;
  padding: 16px 0;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
</style>
