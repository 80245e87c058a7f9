<script setup lang="ts">
/** The line between two results, that is drawn across the view. */
const place = defineModel<number>({ required: true })

const put = (share: number) => (place.value = Math.min(1, Math.max(0, share)))

function drag(event: PointerEvent) {
  const grip = event.currentTarget as HTMLElement
  grip.setPointerCapture(event.pointerId)
  const move = (now: PointerEvent) => {
    const room = grip.parentElement!.getBoundingClientRect()
    put((now.clientX - room.left) / room.width)
  }
  grip.addEventListener('pointermove', move)
  grip.addEventListener('pointerup', () => grip.removeEventListener('pointermove', move), { once: true })
}
</script>

<template>
  <div
    class="divider"
    :style="{ left: `${place * 100}%` }"
    role="slider"
    aria-label="Divider"
    tabindex="0"
    :aria-valuenow="Math.round(place * 100)"
    @pointerdown.prevent="drag"
    @keydown.left.prevent="put(place - 0.02)"
    @keydown.right.prevent="put(place + 0.02)"
  >
    <span class="grip" />
  </div>
</template>

<style scoped>
.divider {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 15px;
  margin-left: -7px;
  cursor: col-resize;
  touch-action: none;
}
.divider::before {
  content: '';
  position: absolute;
  left: 7px;
  top: 0;
  bottom: 0;
  width: 1px;
  background: #fff;
  box-shadow: 0 0 0 1px rgba(0, 0, 0, 0.5);
}
.grip {
  position: absolute;
  top: 50%;
  left: 1px;
  width: 13px;
  height: 13px;
  transform: rotate(45deg);
  background: #fff;
  border: 1px solid rgba(0, 0, 0, 0.6);
}
</style>
