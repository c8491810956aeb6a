<script setup lang="ts">
// What differs between the numbers of two answers: how many do, and the largest changes.
import { computed } from 'vue'
import type { Compared } from '@/api/types'

const props = defineProps<{ numbers: Compared['numbers']; first: string; second: string }>()
const counts = computed(() => {
  const found = props.numbers
  if (!found) return 'There are too many numbers to compare one by one.'
  if (!found.changed && !found.only_before && !found.only_after) return `All ${found.same.toLocaleString('en-GB')} numbers are the same.`
  const parts = [`${found.same.toLocaleString('en-GB')} the same`, `${found.changed.toLocaleString('en-GB')} changed`]
  if (found.only_before) parts.push(`${found.only_before.toLocaleString('en-GB')} only in ${props.first.toLowerCase()}`)
  if (found.only_after) parts.push(`${found.only_after.toLocaleString('en-GB')} only in ${props.second.toLowerCase()}`)
  return `Of the numbers, ${parts.join(', ')}.`
})

function write(value: number | string | null | undefined): string {
  return value === null || value === undefined ? '' : Number(value).toLocaleString('en-GB', { maximumFractionDigits: 2 }).replace('-', '−')
}
</script>

<template>
  <p>{{ counts }}</p>
  <div v-if="numbers?.largest.length" class="scroll" tabindex="0" role="region" aria-label="The largest changes">
    <table>
      <thead><tr><th scope="col">Where</th><th scope="col">Measure</th><th scope="col" class="figure">{{ first }}</th><th scope="col" class="figure">{{ second }}</th><th scope="col" class="figure">Change</th></tr></thead>
      <tbody>
        <tr v-for="(cell, place) in numbers.largest" :key="place">
          <th scope="row">{{ cell.caption }}</th><td>{{ cell.measure }}</td>
          <td class="figure">{{ write(cell.before) }}</td><td class="figure">{{ write(cell.after) }}</td><td class="figure">{{ write(cell.difference) }}</td>
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
