<script setup lang="ts">
import type { ShownMeasure } from '@/api/types'
import DragThing from '../DragThing.vue'
import { measureThing } from '../things'
import MeasureName from './MeasureName.vue'

defineProps<{ measure: ShownMeasure }>()

/** What a heading that leaves something out means in full. */
function titleOf(measure: ShownMeasure): string {
  const isShort = measure.heading !== measure.caption
  return [isShort ? measure.caption : '', measure.description].filter(Boolean).join('. ')
}
</script>

<template>
  <DragThing class="measure-caption" in-grid :thing="measureThing(measure.placed)" :title="titleOf(measure)"
    ><MeasureName :measure="measure"
  /></DragThing>
</template>

<style scoped>
.measure-caption {
  max-width: 100%;
  overflow: hidden;
  font-size: 12px;
  font-weight: 600;
  color: rgb(var(--v-theme-soft));
  text-overflow: ellipsis;
  white-space: nowrap;
  vertical-align: top;
}
</style>
