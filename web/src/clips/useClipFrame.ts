import { ref, watch, type Ref } from 'vue'

/** The picture of a frame that is wanted: one is fetched at a time, and after it the newest that is wanted by then. */
export function useClipFrame(address: Ref<string>) {
  const shown = ref('')
  const busy = ref(false)
  const failed = ref(false)

  async function load() {
    if (busy.value) return
    busy.value = true
    while (shown.value !== address.value) {
      const wanted = address.value
      const image = new Image()
      image.src = wanted
      failed.value = await image.decode().then(
        () => false,
        () => true,
      )
      if (failed.value && wanted === address.value) break
      shown.value = wanted
    }
    busy.value = false
  }
  watch(address, load, { immediate: true })
  return { shown, busy, failed }
}
