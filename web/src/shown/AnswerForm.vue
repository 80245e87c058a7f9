<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../api/client'
import type { Verdict } from './showing'

const props = defineProps<{
  answer: Schemas['AnswerOut'] | null
  closed: boolean
  picture: string
  say: (body: Schemas['ClientAnswerIn']) => Promise<boolean>
}>()
const name = defineModel<string>('name', { required: true })

/** What is being said, until it is sent. */
const verdict = ref<Verdict | null>(null)
const words = ref('')
const busy = ref(false)

const told = computed(() => {
  if (!props.answer) return ''
  const when = new Date(props.answer.created).toLocaleString(undefined, { dateStyle: 'long', timeStyle: 'short' })
  const what = props.answer.verdict === 'approved' ? 'Approved' : 'Changes asked for'
  return `${what} by ${props.answer.name}, ${when}`
})

async function send() {
  busy.value = true
  if (await props.say({ verdict: verdict.value!, name: name.value, words: words.value })) {
    verdict.value = null
    words.value = ''
  }
  busy.value = false
}
</script>

<template>
  <div class="answer">
    <p v-if="answer" :class="answer.verdict" role="status">
      <span aria-hidden="true">{{ answer.verdict === 'approved' ? '✓' : '✎' }}</span> {{ told
      }}<template v-if="answer.words">: “{{ answer.words }}”</template>
    </p>
    <form v-if="verdict" @submit.prevent="send">
      <label>
        <span class="small">{{ verdict === 'approved' ? 'Anything to add? (optional)' : 'What should change?' }}</span>
        <textarea v-model="words" rows="3" maxlength="2000" :required="verdict === 'changes'" />
      </label>
      <label>
        <span class="small">Your name</span>
        <input v-model="name" type="text" required maxlength="80" autocomplete="name" />
      </label>
      <div class="row">
        <button class="first" :disabled="busy || !name.trim() || (verdict === 'changes' && !words.trim())">
          {{ verdict === 'approved' ? 'Approve' : 'Ask for changes' }}
        </button>
        <button type="button" @click="verdict = null">Cancel</button>
      </div>
    </form>
    <div v-else-if="!closed" class="row">
      <button class="first" :aria-label="`Approve ${picture}`" @click="verdict = 'approved'">Approve</button>
      <button :aria-label="`Ask for changes of ${picture}`" @click="verdict = 'changes'">Ask for changes</button>
    </div>
  </div>
</template>

<style scoped>
.answer,
form {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
form {
  max-width: 34em;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
.approved {
  color: var(--accent);
}
</style>
