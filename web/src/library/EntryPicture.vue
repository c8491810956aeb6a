<script setup lang="ts">
// The outline of a table or a chart, drawn from its structure alone: no number and no member shows in it.
import { computed } from 'vue'
import type { Outline } from '@/api/types'

const props = defineProps<{ outline: Outline }>()
const WIDTH = 44
const HEIGHT = 32
const isChart = computed(() => props.outline.view === 'chart')
/** Columns of figures: more where measures or members stand side by side. */
const columns = computed(() => {
  const { columns: across, measures, measures_on: on } = props.outline
  return Math.min(across ? 4 : on === 'columns' ? Math.max(measures, 1) : 1, 4)
})
const heads = computed(() => Math.min(props.outline.columns + 1, 3))
const left = computed(() => (props.outline.rows || props.outline.measures_on === 'rows' ? 13 : 4))
const tops = computed(() => Array.from({ length: heads.value }, (_, at) => 4 + at * 4))
const rows = computed(() => (props.outline.rows || props.outline.measures_on === 'rows' ? 4 : 1))
const first = computed(() => 4 + heads.value * 4 + 1)
const step = computed(() => Math.min((HEIGHT - first.value - 2) / rows.value, 5))
/** Rows step in below the first where several hierarchies stand on them. */
const lines = computed(() =>
  Array.from({ length: rows.value }, (_, at) => ({
    y: first.value + at * step.value,
    indent: props.outline.rows > 1 && at % 3 ? 3 : 0,
  })),
)
const across = computed(() => {
  const width = (WIDTH - left.value - 4) / columns.value
  return Array.from({ length: columns.value }, (_, at) => ({
    x: left.value + at * width + width * 0.25,
    width: width * 0.65,
  }))
})
const BARS = [9, 15, 12, 20, 17]
const POINTS = '5,24 13,17 20,20 28,11 39,7'
</script>

<template>
  <svg class="picture" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" :width="WIDTH" :height="HEIGHT" aria-hidden="true">
    <rect x="0.5" y="0.5" :width="WIDTH - 1" :height="HEIGHT - 1" class="paper" />
    <template v-if="isChart">
      <polyline v-if="outline.form === 'lines'" :points="POINTS" class="line" />
      <path v-else-if="outline.form === 'areas'" :d="`M5,27 L${POINTS.replaceAll(' ', ' L')} L39,27 Z`" class="area" />
      <circle v-else-if="outline.form === 'ring'" cx="22" cy="16" r="8" class="ring" />
      <template v-else-if="outline.form === 'points'">
        <circle v-for="(height, at) in BARS" :key="at" :cx="8 + at * 7" :cy="27 - height" r="1.6" class="mark" />
      </template>
      <template v-else-if="outline.form === 'heat'">
        <rect
          v-for="at in 15"
          :key="at"
          :x="7 + ((at - 1) % 5) * 6"
          :y="6 + Math.floor((at - 1) / 5) * 7"
          width="5"
          height="6"
          class="mark"
          :opacity="0.2 + ((at * 7) % 5) * 0.18"
        />
      </template>
      <template v-else>
        <rect
          v-for="(height, at) in BARS"
          :key="at"
          :x="6 + at * 7"
          :y="27 - height"
          width="4.5"
          :height="height"
          class="mark"
        />
        <template v-if="outline.form === 'stacked' || outline.form === 'shares'">
          <rect
            v-for="(height, at) in BARS"
            :key="at"
            :x="6 + at * 7"
            :y="27 - height / 2"
            width="4.5"
            :height="height / 2"
            class="second"
          />
        </template>
      </template>
      <line x1="4" x2="40" y1="27.5" y2="27.5" class="rule" />
    </template>
    <template v-else>
      <template v-for="(y, level) in tops" :key="y">
        <rect
          v-for="column in level ? across : across.slice(0, Math.max(1, heads > 1 ? 2 : across.length))"
          :key="column.x"
          :x="column.x"
          :y="y"
          :width="column.width"
          height="1.4"
          class="head"
        />
      </template>
      <line :x1="3" :x2="WIDTH - 3" :y1="first - 1.5" :y2="first - 1.5" class="rule" />
      <template v-for="line in lines" :key="line.y">
        <rect v-if="left > 4" :x="4 + line.indent" :y="line.y" :width="8 - line.indent" height="1.4" class="head" />
        <rect
          v-for="column in across"
          :key="column.x"
          :x="column.x"
          :y="line.y"
          :width="column.width"
          height="1.4"
          class="figure"
        />
      </template>
      <polyline v-if="outline.view === 'both'" points="26,28 31,24 35,26 41,20" class="line" />
    </template>
  </svg>
</template>

<style scoped>
.paper {
  fill: rgb(var(--v-theme-background));
  stroke: rgb(var(--v-theme-hair));
}

.rule {
  stroke: rgb(var(--v-theme-rule));
  stroke-width: 0.8;
}

.head {
  fill: rgb(var(--v-theme-soft));
}

.figure {
  fill: rgb(var(--v-theme-rule));
}

.mark,
.area {
  fill: rgb(var(--v-theme-primary));
}

.second {
  fill: rgb(var(--v-theme-hair));
}

.line,
.ring {
  fill: none;
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 1.6;
}

.ring {
  stroke-width: 5;
}
</style>
