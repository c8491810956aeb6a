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
  <div ref="element" class="zone" :class="{ over: isOver }" :data-landing="`${offer.place}-${offer.at}`"></div>
</template>

<style scoped>
.zone {
  position: relative;
  flex: 1;
  border: 1px dashed rgb(var(--v-theme-saffron), 45%);
  transition: background var(--motion);
}

.over {
  background: rgb(var(--v-theme-saffron), 10%);
  border: 1px solid rgb(var(--v-theme-saffron));
}
</style>
