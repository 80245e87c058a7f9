<script setup lang="ts">
import { onMounted, ref } from 'vue'

import ShownPicture from './ShownPicture.vue'
import { tokenIn, useShowing } from './showing'

const { showing, state, fault, open, unlock, note, say, base } = useShowing(tokenIn(location.pathname))
const passphrase = ref('')
const busy = ref(false)
/** Who answers: typed once for all pictures. */
const name = ref('')

onMounted(open)

async function enter() {
  busy.value = true
  await unlock(passphrase.value)
  busy.value = false
}
const day = (moment: string) => new Date(moment).toLocaleDateString(undefined, { dateStyle: 'long' })
</script>

<template>
  <main>
    <p v-if="state === 'opening'" class="middle" role="status">{{ fault || 'Opening the showing …' }}</p>
    <p v-else-if="state === 'closed'" class="middle" role="alert">{{ fault }}</p>
    <form v-else-if="state === 'locked'" class="middle lock" @submit.prevent="enter">
      <h1>Pictures to look at</h1>
      <label for="passphrase">This showing is opened with a passphrase. Whoever sent you the link has it.</label>
      <input id="passphrase" v-model="passphrase" type="password" autocomplete="off" required maxlength="100" />
      <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
      <button class="first" :disabled="busy || !passphrase">Open</button>
    </form>
    <template v-else-if="showing">
      <header>
        <h1>{{ showing.title }}</h1>
        <p v-if="showing.round > 1" class="quiet">Round {{ showing.round }}</p>
        <p v-if="showing.words" class="words">{{ showing.words }}</p>
        <p class="small quiet">
          {{ showing.pictures.length }} {{ showing.pictures.length === 1 ? 'picture' : 'pictures' }} · open until
          {{ day(showing.expires) }} · <a :href="`${base}/pdf`">as PDF</a>
        </p>
        <p v-if="showing.closed_to_answers" class="notice" role="status">{{ showing.closed_to_answers }}</p>
      </header>
      <p v-if="fault" class="fault notice" role="alert">{{ fault }}</p>
      <ShownPicture
        v-for="picture in showing.pictures"
        :key="picture.position"
        v-model:name="name"
        :picture="picture"
        :base="`${base}/pictures/${picture.position}`"
        :closed="!!showing.closed_to_answers"
        :note="(body) => note(picture.position, body)"
        :say="(body) => say(picture.position, body)"
      />
    </template>
  </main>
</template>

<style scoped>
main {
  max-width: 1400px;
  margin: 0 auto;
  padding: 28px 20px 60px;
}
header {
  display: flex;
  flex-direction: column;
  gap: 10px;
  margin-bottom: 28px;
}
.words {
  max-width: 70ch;
  white-space: pre-line;
}
.middle {
  max-width: 30em;
  margin: 18vh auto 0;
}
.lock {
  display: flex;
  flex-direction: column;
  align-items: stretch;
  gap: 14px;
}
.notice {
  padding: 10px 14px;
  border: 1px solid var(--line);
  border-radius: 4px;
}
@media (max-width: 600px) {
  main {
    padding: 18px 12px 40px;
  }
}
</style>
