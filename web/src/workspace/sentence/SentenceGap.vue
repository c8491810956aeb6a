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
  <span ref="element" class="gap" :class="{ over: isOver }" :title="offer.words">{{ isOver ? offer.words : '' }}</span>
</template>

<style scoped>
.gap {
  display: inline-block;
  min-width: 54px;
  height: 24px;
  margin: 0 5px;
  padding: 0 8px;
  font: 13px/22px var(--sans);
  vertical-align: middle;
  background: rgb(var(--v-theme-saffron-tint));
  border: 1px dashed rgb(var(--v-theme-saffron));
  border-radius: 2px;
}

.over {
  border-style: solid;
}
</style>
