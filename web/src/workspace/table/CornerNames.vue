<script setup lang="ts">
// The corner names what stands on each axis; the measures, where there are several, stand among them as a group.
import { computed } from 'vue'
import type { Shown, ShownMeasure } from '@/api/types'
import DragThing from '../DragThing.vue'
import { dimensionThing, measureThing, measuresThing } from '../things'
import { axisNames, type AxisName } from './axisNames'
import WidthEdge from './WidthEdge.vue'
import MeasureName from './MeasureName.vue'
import type { LevelColumn } from './levels'

const props = defineProps<{ shown: Shown; coming: string; hasMeasureRow: boolean; levels?: readonly LevelColumn[] }>()
const emit = defineEmits<{ edge: [event: PointerEvent] }>()

interface Name extends AxisName {
  measure?: ShownMeasure
}

const measures = computed<Name[]>(() => {
  const found = props.shown.answered?.measures ?? []
  const only = found[0]
  if (found.length > 1) return [{ text: 'Measures', thing: measuresThing() }]
  if (!only || props.hasMeasureRow) return []
  return [{ text: only.heading, thing: measureThing(only.placed), measure: only }]
})

function names(axis: 'rows' | 'columns'): Name[] {
  const found: Name[] = axisNames(props.shown, axis)
  const question = props.shown.document.question
  if ((question?.measures_on ?? 'columns') === axis)
    found.splice(question?.measures_at ?? found.length, 0, ...measures.value)
  return found
}

const rowNames = computed(() => names('rows'))
const columnNames = computed(() => names('columns'))
</script>

<template>
  <div class="corner" role="columnheader" aria-label="What stands on the axes">
    <span class="axis-name columns-name">
      <DragThing v-for="name in columnNames" :key="name.text" :class="{ measured: name.measure }" :thing="name.thing"
        ><MeasureName v-if="name.measure" :measure="name.measure" /><template v-else>{{
          name.text
        }}</template></DragThing
      >
    </span>
    <span v-if="levels" class="axis-name level-names">
      <span v-for="column in levels" :key="column.caption" class="level-name" :style="{ width: `${column.width}px` }">
        <DragThing v-if="column.level" :thing="dimensionThing(column.level.dimension, column.level.hierarchy)">{{
          column.caption
        }}</DragThing>
        <DragThing v-else :thing="measuresThing()">{{ column.caption }}</DragThing>
      </span>
    </span>
    <span v-else class="axis-name rows-name">
      <DragThing v-for="name in rowNames" :key="name.text" :class="{ measured: name.measure }" :thing="name.thing"
        ><MeasureName v-if="name.measure" :measure="name.measure" /><template v-else>{{
          name.text
        }}</template></DragThing
      >
      <span v-if="coming" class="coming">{{ coming }}</span>
    </span>
    <WidthEdge what="the row headers" @draw="emit('edge', $event)" />
  </div>
</template>

<style scoped src="./corner.css" />
