<script setup lang="ts">
// What the marks in the cells say.
import { computed } from 'vue'
import type { ShownMeasure } from '@/api/types'
import { numberWriter } from './format'
import { SIGNS, isMarked } from './marks'

const props = defineProps<{ measures: readonly ShownMeasure[] }>()
const marked = computed(() => props.measures.filter(isMarked))

function ends(measure: ShownMeasure): string {
  const write = numberWriter(measure.format)
  return measure.dress.in_cell === 'bar'
    ? `longest bar ${write(Math.max(Math.abs(measure.least ?? 0), Math.abs(measure.greatest ?? 0)))}`
    : `from ${write(measure.least)} to ${write(measure.greatest)}, the deeper the larger${(measure.least ?? 0) < 0 ? '; red below zero' : ''}`
}
</script>

<template>
  <ul v-if="marked.length" class="legend" aria-label="What the marks mean">
    <template v-for="measure in marked" :key="measure.name">
      <li v-if="measure.dress.in_cell !== 'number'">
        <span class="swatch" aria-hidden="true" />{{ measure.caption }}: {{ ends(measure) }}
      </li>
      <li v-for="(words, at) in measure.legend" :key="words">
        <span :class="measure.dress.thresholds?.[at]?.meaning" class="sign" aria-hidden="true">{{
          SIGNS[measure.dress.thresholds?.[at]?.meaning ?? 'noted']
        }}</span>{{ words }}
      </li>
    </template>
  </ul>
</template>

<style scoped>
.legend {
  display: flex;
  flex: none;
  flex-wrap: wrap;
  gap: 2px 20px;
  margin: 0;
  padding: 3px 12px;
  font-size: 12px;
  list-style: none;
  border-top: 1px solid rgb(var(--v-theme-hair));
}

.swatch {
  display: inline-block;
  width: 22px;
  height: 9px;
  margin-right: 6px;
  background: linear-gradient(to right, rgb(var(--v-theme-success), 8%), rgb(var(--v-theme-success), 42%));
}

.sign {
  margin-right: 5px;
}

.favourable {
  color: rgb(var(--v-theme-success));
}

.unfavourable {
  color: rgb(var(--v-theme-secondary));
}
</style>
