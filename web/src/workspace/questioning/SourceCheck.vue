<script setup lang="ts">
// What the source itself says of the fact, asked afresh.
import { shallowRef } from 'vue'
import { GET, body } from '@/api/client'
import type { Recount } from '@/api/types'
import { useProblem } from '@/shell/problem'
import type { CellLines } from '../thingMenu'
import { grouped } from './digits'

const props = defineProps<{ handle: string; cell: CellLines }>()
const problem = useProblem()
const found = shallowRef<Recount[] | null>(null)

body(GET('/api/answers/{handle}/source', { params: { path: { handle: props.handle }, query: props.cell } }))
  .then((answer) => (found.value = answer))
  .catch((error: unknown) => problem.tell(error))
</script>

<template>
  <p v-if="!found" class="soft">Reading the source anew…</p>
  <template v-else>
    <p>The files were read anew just now, without filters and rights:</p>
    <table v-for="each in found" :key="each.table + each.column">
      <caption>
        {{
          each.table
        }}:
        <strong>{{ each.agrees ? 'agrees with the source' : 'does not agree with the source' }}</strong>
      </caption>
      <thead>
        <tr>
          <td />
          <th scope="col" class="figure">The source, now</th>
          <th scope="col" class="figure">Here</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="row">records</th>
          <td class="figure">{{ each.source_count.toLocaleString('en-GB') }}</td>
          <td class="figure">{{ each.own_count.toLocaleString('en-GB') }}</td>
        </tr>
        <tr v-if="each.column">
          <th scope="row">sum of {{ each.column }}</th>
          <td class="figure">{{ grouped(each.source_sum) }}</td>
          <td class="figure">{{ grouped(each.own_sum) }}</td>
        </tr>
        <tr v-if="each.differing.length">
          <th scope="row">other values in</th>
          <td colspan="2">{{ each.differing.join(', ') }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="found.some((each) => !each.agrees)">
      The source has changed since it was opened. The next question reads it anew.
    </p>
  </template>
</template>

<style scoped src="./plain.css" />
<style scoped>
caption {
  padding: 6px 2px;
  text-align: left;
}
</style>
