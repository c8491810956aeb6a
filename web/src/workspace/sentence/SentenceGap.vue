<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Offer } from '@/api/types'
import { useDragging, useLanding } from '../dragging'

const props = defineProps<{ offer: Offer }>()
const dragging = useDragging()
const element = ref<HTMLElement | null>(null)
const isOver = computed(() => dragging.over === props.offer)
useLanding(element, () => props.offer)
</script>

<template>
  <span
    ref="element"
    class="gap"
    :class="{ over: isOver }"
    :title="offer.words"
    :data-gap="`${offer.place}-${offer.at ?? 0}`"
    ><span v-if="isOver && offer.place === 'waiting'" class="words">{{ offer.words }}</span></span
  >
</template>

<style scoped>
.gap {
  position: relative;
  display: inline-block;
  width: 34px;
  height: 24px;
  margin: 0 5px;
  vertical-align: middle;
  background: rgb(var(--v-theme-saffron-tint));
  border: 1px dashed rgb(var(--v-theme-saffron));
  border-radius: 2px;
}

.over {
  border-style: solid;
}

/* What lands in the table is said there. Over what follows and not between it: the other gaps stay where the hand saw them. */
.words {
  position: absolute;
  top: 26px;
  left: -1px;
  z-index: 6;
  padding: 0 8px;
  font: 13px/24px var(--sans);
  white-space: nowrap;
  background: rgb(var(--v-theme-saffron-tint));
  border: 1px solid rgb(var(--v-theme-saffron));
  border-radius: 2px;
  pointer-events: none;
}
</style>
