<script setup lang="ts">
import { mdiCircleHalfFull, mdiLogoutVariant } from '@mdi/js'

import { useSession } from '../people/useSession'
import { surrounds, useSurround } from '../parts/useSurround'

const { session, signOut } = useSession()
const { surround } = useSurround()
</script>

<template>
  <header class="top">
    <RouterLink to="/" class="mark" aria-label="Kite Glass, all jobs">
      <img src="/mark.svg" alt="" width="22" height="22" />
      <span>Kite Glass</span>
    </RouterLink>
    <div class="middle"><slot /></div>
    <nav aria-label="Workshop">
      <RouterLink to="/">Jobs</RouterLink>
      <RouterLink :to="{ name: 'deliveries' }">Deliveries</RouterLink>
      <RouterLink :to="{ name: 'cards' }">Cards</RouterLink>
      <RouterLink :to="{ name: 'engines' }">Engines</RouterLink>
      <RouterLink :to="{ name: 'settings' }">Settings</RouterLink>
    </nav>
    <v-menu>
      <template #activator="{ props: opener }">
        <v-btn
          v-bind="opener"
          :icon="mdiCircleHalfFull"
          size="small"
          aria-label="Surround"
          title="Grey around pictures"
        />
      </template>
      <v-list density="compact" min-width="160">
        <v-list-item
          v-for="one in surrounds"
          :key="one.value"
          :title="one.title"
          :active="one.value === surround"
          @click="surround = one.value"
        />
      </v-list>
    </v-menu>
    <span class="quiet name">{{ session?.name }}</span>
    <v-btn :icon="mdiLogoutVariant" size="small" aria-label="Sign out" title="Sign out" @click="signOut" />
  </header>
</template>

<style scoped>
.top {
  display: flex;
  align-items: center;
  gap: 8px;
  height: 48px;
  padding: 0 12px 0 16px;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.14);
  background: rgb(var(--v-theme-surface));
  flex: none;
}
.mark {
  display: flex;
  align-items: center;
  gap: 8px;
  color: inherit;
  text-decoration: none;
  font-weight: 600;
}
.middle {
  flex: 1;
  min-width: 0;
  padding-left: 16px;
}
nav {
  display: flex;
  gap: 4px;
}
nav a {
  padding: 4px 10px;
  border-radius: 4px;
  color: inherit;
  text-decoration: none;
}
nav a:hover {
  background: rgba(var(--v-theme-on-surface), 0.08);
}
nav a.router-link-exact-active {
  font-weight: 600;
  box-shadow: inset 0 -2px 0 rgb(var(--v-theme-primary));
  border-radius: 0;
}
.name {
  padding: 0 4px 0 8px;
}
</style>
