<script setup lang="ts">
// While something is dragged, the table's own edges take it: rows at the left, columns at the top.
import { computed } from 'vue'
import { useDragging } from '../dragging'
import DropZone from './DropZone.vue'

defineProps<{ headerHeight: number; labelWidth: number; rowsFillSheet: boolean }>()
const dragging = useDragging()
const rows = computed(() => dragging.landings('rows'))
const columns = computed(() => dragging.landings('columns'))
const measures = computed(() => dragging.landings('measures'))
</script>

<template>
  <div class="zones">
    <div
      v-if="columns.length"
      class="edge stacked"
      :style="{ left: `${labelWidth}px`, right: 0, top: 0, height: `${headerHeight}px` }"
    >
      <DropZone v-for="offer in columns" :key="offer.words" :offer="offer" />
    </div>
    <div
      v-if="rows.length"
      class="edge"
      :style="{ left: 0, width: rowsFillSheet ? '100%' : `${labelWidth}px`, top: `${headerHeight}px`, bottom: 0 }"
    >
      <DropZone v-for="offer in rows" :key="offer.words" :offer="offer" />
    </div>
    <div v-if="measures.length" class="edge" :style="{ inset: 0 }">
      <DropZone v-for="offer in measures" :key="offer.words" :offer="offer" />
    </div>
  </div>
</template>

<style scoped>
.zones {
  position: absolute;
  inset: 0;
  z-index: 5;
  pointer-events: none;
}

.edge {
  position: absolute;
  display: flex;
  pointer-events: auto;
}

.stacked {
  flex-direction: column;
}
</style>
