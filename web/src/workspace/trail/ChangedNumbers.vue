<script setup lang="ts">
// What differs between the numbers of two answers: how many do, and the largest changes.
import { computed } from 'vue'
import type { Compared } from '@/api/types'

const props = defineProps<{ numbers: Compared['numbers']; first: string; second: string }>()
const counts = computed(() => {
  const found = props.numbers
  if (!found) return 'There are too many numbers to compare one by one.'
  if (!found.changed && !found.only_before && !found.only_after)
    return `All ${found.same.toLocaleString('en-GB')} numbers are the same.`
  const parts = [`${found.same.toLocaleString('en-GB')} the same`, `${found.changed.toLocaleString('en-GB')} changed`]
  if (found.only_before) parts.push(`${found.only_before.toLocaleString('en-GB')} only in ${props.first.toLowerCase()}`)
  if (found.only_after) parts.push(`${found.only_after.toLocaleString('en-GB')} only in ${props.second.toLowerCase()}`)
  return `Of the numbers, ${parts.join(', ')}.`
})

const MOST_DIGITS = 2
/** Of each measure how many digits after the point its numbers have, so that they stand below one another. */
const digits = computed(() => {
  const found = new Map<string, number>()
  for (const cell of props.numbers?.largest ?? []) {
    const own = [cell.before, cell.after, cell.difference].map(
      (value) =>
        Number(Number(value ?? 0).toFixed(MOST_DIGITS))
          .toString()
          .split('.')[1]?.length ?? 0,
    )
    found.set(cell.measure, Math.max(found.get(cell.measure) ?? 0, ...own))
  }
  return found
})

function write(value: number | string | null | undefined, measure: string): string {
  if (value === null || value === undefined) return ''
  const own = digits.value.get(measure) ?? 0
  return Number(value)
    .toLocaleString('en-GB', { minimumFractionDigits: own, maximumFractionDigits: own })
    .replace('-', '−')
}
</script>

<template>
  <p>{{ counts }}</p>
  <div v-if="numbers?.largest.length" class="scroll" tabindex="0" role="region" aria-label="The largest changes">
    <table>
      <thead>
        <tr>
          <th scope="col">Where</th>
          <th scope="col">Measure</th>
          <th scope="col" class="figure">{{ first }}</th>
          <th scope="col" class="figure">{{ second }}</th>
          <th scope="col" class="figure">Change</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(cell, place) in numbers.largest" :key="place">
          <th scope="row">{{ cell.caption }}</th>
          <td>{{ cell.measure }}</td>
          <td class="figure">{{ write(cell.before, cell.measure) }}</td>
          <td class="figure">{{ write(cell.after, cell.measure) }}</td>
          <td class="figure">{{ write(cell.difference, cell.measure) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
p {
  margin: 0;
}

.scroll {
  min-height: 0;
  overflow: auto;
}

table {
  width: 100%;
  border-collapse: collapse;
}

th {
  font-weight: 400;
  text-align: left;
}

thead th {
  font-size: 12px;
  font-weight: 600;
  border-bottom: 1px solid rgb(var(--v-theme-on-surface));
}

td,
th {
  padding: 1px 8px 1px 0;
}

th.figure,
.figure {
  text-align: right;
}
</style>
