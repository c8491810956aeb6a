<script setup lang="ts">
// Behind the drawing stands a table of the same numbers, for those who do not see it.
import type { ChartData, ShownMeasure } from '@/api/types'
import { numberWriter } from '../table/format'
import { pathOf } from './option'

const props = defineProps<{ data: ChartData; measures: readonly ShownMeasure[] }>()

function write(panel: ChartData['panels'][number], series: number, category: number): string {
  const measure = props.measures[panel.measure]
  return measure ? numberWriter(measure.format)(panel.values[series]?.[category]) : ''
}
</script>

<template>
  <div class="unseen">
    <table v-for="panel in data.panels" :key="panel.measure">
      <caption>{{ measures[panel.measure]?.caption }}</caption>
      <thead>
        <tr>
          <th scope="col">{{ data.along === 'rows' ? 'Row' : 'Column' }}</th>
          <th v-for="(each, at) in data.series" :key="at" scope="col">{{ pathOf(each) }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(each, at) in data.categories" :key="at">
          <th scope="row">{{ pathOf(each) }}</th>
          <td v-for="(_, series) in data.series" :key="series">{{ write(panel, series, at) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
