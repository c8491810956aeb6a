<script setup lang="ts">
// The right edge of a header, by which its column is drawn wider or narrower. By keyboard, widths are in the slips.
defineProps<{ what: string }>()
const emit = defineEmits<{ draw: [event: PointerEvent] }>()
</script>

<template>
  <span
    class="edge"
    aria-hidden="true"
    :title="`Draw to make ${what} wider or narrower`"
    @pointerdown.stop.prevent="emit('draw', $event)"
  />
</template>

<style scoped>
.edge {
  position: absolute;
  top: 0;
  right: 0;
  width: 7px;
  height: 100%;
  cursor: col-resize;
  touch-action: none;
}

.edge:hover {
  border-right: 2px solid rgb(var(--v-theme-secondary));
}
</style>
