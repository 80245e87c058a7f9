<script setup lang="ts">
import { computed } from 'vue'

import GuardedPart from './parts/GuardedPart.vue'
import SignIn from './people/SignIn.vue'
import { useSession } from './people/useSession'
import { useNotice } from './parts/useNotice'
import { useNumberFields } from './parts/numberFields'
import { useDeliveryEvents } from './deliveries/useDeliveries'

const { session, loading, error } = useSession()
const notice = useNotice()
/** What the notice offers is done, and the notice goes. */
function act() {
  notice.current?.action?.run()
  notice.current = null
}
useNumberFields()
useDeliveryEvents(computed(() => Boolean(session.value?.name)))
</script>

<template>
  <v-app>
    <v-main style="height: 100%">
      <div v-if="error && !session" class="wait" role="alert">
        <p>{{ error.message }}</p>
      </div>
      <div v-else-if="loading" class="wait" aria-busy="true">
        <v-progress-circular indeterminate size="24" width="2" />
      </div>
      <SignIn v-else-if="!session?.name" />
      <RouterView v-else v-slot="{ Component, route }">
        <GuardedPart :key="route.name" what="This page">
          <component :is="Component" />
        </GuardedPart>
      </RouterView>
    </v-main>
    <v-snackbar
      :key="notice.current?.number"
      :model-value="notice.current !== null"
      :timeout="notice.current?.tone === 'fault' ? 9000 : 6000"
      location="top"
      class="notice"
      :color="notice.current?.tone === 'fault' ? 'error' : undefined"
      @update:model-value="notice.current = null"
    >
      <span role="status">{{ notice.current?.text }}</span>
      <template #actions>
        <v-btn v-if="notice.current?.action" @click="act">
          {{ notice.current.action.label }}
        </v-btn>
        <v-btn @click="notice.current = null">Close</v-btn>
      </template>
    </v-snackbar>
  </v-app>
</template>

<style scoped>
/* Below the bars, over the picture's upper edge: nothing that is worked with lies there. */
.notice {
  margin-top: 62px;
}
.wait {
  height: 100%;
  display: grid;
  place-items: center;
}
</style>
