<script setup lang="ts">
// Behind the drawing stands a table of the same numbers, for those who do not see it.
import type { ChartData, ShownMeasure } from '@/api/types'
import { numberWriter } from '../table/format'
import { isJoined, measureOf, pathOf } from './option'

const props = defineProps<{ data: ChartData; measures: readonly ShownMeasure[] }>()

function write(panel: number, series: number, category: number): string {
  const measure = measureOf(props.data, props.measures, { panel, series })
  return measure ? numberWriter(measure.format)(props.data.panels[panel]?.values[series]?.[category]) : ''
}
</script>

<template>
  <div class="unseen">
    <table v-for="(panel, panelAt) in data.panels" :key="panel.measure">
      <caption>
        {{
          isJoined(data) ? measures[panel.measure]?.unit : measures[panel.measure]?.caption
        }}
      </caption>
      <thead>
        <tr>
          <th scope="col">{{ data.along === 'rows' ? 'Row' : 'Column' }}</th>
          <th v-for="(each, at) in data.series" :key="at" scope="col">{{ pathOf(each) }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(each, at) in data.categories" :key="at">
          <th scope="row">{{ pathOf(each) }}</th>
          <td v-for="(_, series) in data.series" :key="series">{{ write(panelAt, series, at) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
