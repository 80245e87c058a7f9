<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { useNotice } from '../parts/useNotice'
import { useEngineChanges } from './useEngines'

const open = defineModel<boolean>({ required: true })
const { bring } = useEngineChanges()
const notice = useNotice()

const network = ref<File | null>(null)
const manifest = ref<File | null>(null)
const unreadable = ref('')
const ready = computed(() => network.value && manifest.value)

watch(open, (now) => {
  if (now) bring.reset()
})

const example = `{
  "name": "My enlarger", "purpose": "For scanned slides.",
  "kind": "enlarge",
  "network": {
    "input": "picture", "outputs": {"4": "enlarged"},
    "range": [0, 1], "reach": 20
  }
}`

function take(files: FileList | File[] | null | undefined) {
  for (const file of files ?? []) {
    if (file.name.toLowerCase().endsWith('.onnx')) network.value = file
    else if (file.name.toLowerCase().endsWith('.json')) manifest.value = file
  }
}
/** The file's content as it is now; what has changed on disk since it was chosen can no longer be read. */
async function content(file: File) {
  try {
    return new File([await file.arrayBuffer()], file.name)
  } catch {
    throw new Error(`${file.name} has changed since it was chosen; choose it again.`)
  }
}
async function send() {
  if (!network.value || !manifest.value) return
  unreadable.value = ''
  let files: { network: File; manifest: File }
  try {
    files = { network: await content(network.value), manifest: await content(manifest.value) }
  } catch (error) {
    unreadable.value = (error as Error).message
    return
  }
  bring.mutate(files, {
    onSuccess: (engine) => {
      open.value = false
      network.value = manifest.value = null
      notice.say(`${engine.name} works and is on the shelf.`)
    },
  })
}
/** So that choosing the same file again, mended, counts as a choice. */
function forget(event: Event) {
  ;(event.target as HTMLInputElement).value = ''
}
function chosen(event: Event) {
  take((event.target as HTMLInputElement).files)
}
</script>

<template>
  <v-dialog v-model="open" max-width="620" aria-label="Bring your own engine" :persistent="bring.isPending.value">
    <v-card class="pa-5" @dragover.prevent @drop.prevent="take(($event as DragEvent).dataTransfer?.files)">
      <h2>Bring your own engine</h2>
      <p class="quiet mt-2">
        An ONNX network and a small manifest. It is loaded and tried on small pictures first, apart from everything
        else: sizes, values, reach and speed must be as the manifest says.
      </p>
      <div class="files">
        <label class="file"
          ><span>Network</span
          ><input type="file" accept=".onnx" aria-label="Network file" @click="forget" @change="chosen" />
          <strong>{{ network?.name ?? 'choose an .onnx file' }}</strong></label
        >
        <label class="file"
          ><span>Manifest</span
          ><input
            type="file"
            accept=".json,application/json"
            aria-label="Manifest file"
            @click="forget"
            @change="chosen"
          />
          <strong>{{ manifest?.name ?? 'choose a .json file' }}</strong></label
        >
      </div>
      <details class="small">
        <summary>What a manifest holds</summary>
        <pre>{{ example }}</pre>
        <p class="quiet">
          <b>kind</b>: enlarge, denoise, repair or deblur. <b>outputs</b>: by factor (1 for those that restore).
          <b>reach</b>: how many pixels around a pixel its result depends on. Pictures go in as 1×3×height×width, RGB,
          in <b>range</b>.
        </p>
      </details>
      <v-progress-linear v-if="bring.isPending.value" indeterminate class="mt-3" />
      <p v-if="bring.isPending.value" class="small mt-1" role="status">Trying it; this may take up to three minutes.</p>
      <p v-if="unreadable || bring.error.value" class="fault mt-3" role="alert">
        {{ unreadable || bring.error.value?.message }}
      </p>
      <div class="foot">
        <v-btn :disabled="bring.isPending.value" @click="open = false">Cancel</v-btn>
        <v-btn color="primary" variant="flat" :disabled="!ready || bring.isPending.value" @click="send"
          >Try it and add it</v-btn
        >
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.files {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  margin: 16px 0;
}
.file {
  display: flex;
  flex-direction: column;
  padding: 10px 12px;
  border: 1px dashed rgba(var(--v-theme-on-surface), 0.4);
  border-radius: 4px;
  cursor: pointer;
  overflow: hidden;
}
.file strong {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.file span {
  font-size: 13px;
}
.file input {
  position: absolute;
  opacity: 0;
  width: 1px;
}
.file:focus-within {
  outline: 2px solid rgb(var(--v-theme-primary));
}
pre {
  margin: 8px 0;
  padding: 10px 12px;
  background: rgb(var(--v-theme-background));
  font-size: 13px;
  overflow-x: auto;
}
summary {
  cursor: pointer;
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 18px;
}
</style>
