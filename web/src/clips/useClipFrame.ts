import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'

/** How long a frame is looked at before its exact pixels are asked for, ms: not while one only passes by. */
const rests = 80

/** The newest picture that is wanted: one is fetched at a time, and after it the newest that is wanted by then. */
function useNewest(address: Ref<string>) {
  const shown = ref('')
  const failed = ref(false)
  let busy = false

  async function load() {
    if (busy) return
    busy = true
    while (address.value && shown.value !== address.value) {
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
    busy = false
  }
  watch(address, load, { immediate: true })
  return { shown, failed }
}

/** The picture of a frame: a small one at once, where there is one (`quick`), and its exact pixels once one stays there. */
export function useClipFrame(exact: Ref<string>, quick: Ref<string>) {
  const settled = ref(exact.value)
  let timer: ReturnType<typeof setTimeout> | undefined
  watch(exact, (now) => {
    clearTimeout(timer)
    if (quick.value) timer = setTimeout(() => (settled.value = now), rests)
    else settled.value = now
  })
  onScopeDispose(() => clearTimeout(timer))
  const { shown: whole, failed } = useNewest(settled)
  const { shown: small } = useNewest(quick)
  /** The exact one if it is there, or else the small one, which is there sooner. */
  const shown = computed(() =>
    whole.value === exact.value || !small.value || !quick.value ? whole.value : small.value,
  )
  return { shown, failed, there: computed(() => whole.value === exact.value) }
}
