<script setup lang="ts">
// Before anything is put in: the sheet says how to begin, and takes the first drop anywhere.
import { useDragging } from './dragging'
import DropZones from './table/DropZones.vue'

const dragging = useDragging()
const HEADER_HEIGHT = 90
const LABEL_WIDTH = 260
</script>

<template>
  <div class="empty">
    <div>
      <p class="first">Drag a measure here to see a number.</p>
      <p class="soft">Then drag a dimension to the left edge for rows, and another to the top edge for columns.</p>
    </div>
    <DropZones v-if="dragging.isDragging" :header-height="HEADER_HEIGHT" :label-width="LABEL_WIDTH" rows-fill-sheet />
  </div>
</template>

<style scoped>
.empty {
  position: relative;
  display: grid;
  place-items: center;
  height: 100%;
  text-align: center;
  background: rgb(var(--v-theme-surface));
}

.first {
  margin: 0 0 4px;
  font: 22px/30px var(--serif);
}
</style>
