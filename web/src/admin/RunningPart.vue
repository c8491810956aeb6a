<script setup lang="ts">
// What the server does just now, and what it takes.
import { useIntervalFn } from '@vueuse/core'
import { onMounted, shallowRef } from 'vue'
import { DELETE, GET, body } from '@/api/client'
import type { Running } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useAdministration } from './useAdministration'

const LOOK_MS = 2000
const problem = useProblem()
const { all } = useAdministration()
const found = shallowRef<Running | null>(null)

function size(bytes: number): string {
  if (bytes >= 2 ** 30) return `${(bytes / 2 ** 30).toFixed(1)} GiB`
  return bytes >= 2 ** 20 || !bytes ? `${Math.round(bytes / 2 ** 20)} MiB` : `${Math.ceil(bytes / 2 ** 10)} KiB`
}

async function load(): Promise<void> {
  found.value = await body(GET('/api/administration/running'))
}

function end(number: number): void {
  body(DELETE('/api/administration/running/{number}', { params: { path: { number } } }))
    .then(load)
    .catch(problem.tell)
}

const { pause } = useIntervalFn(
  () =>
    load().catch((error: unknown) => {
      pause()
      problem.tell(error)
    }),
  LOOK_MS,
)
onMounted(() => load().catch(problem.tell))
</script>

<template>
  <h1>What runs now</h1>
  <p class="lead">All questions together share one budget; those that do not fit wait for their turn.</p>
  <template v-if="found">
    <table aria-label="What it takes">
      <thead>
        <tr>
          <th scope="col">Takes</th>
          <th scope="col" class="figure">Now</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td>memory of the server</td>
          <td class="figure">{{ size(found.memory_bytes) }}</td>
        </tr>
        <tr>
          <td>answers that are kept</td>
          <td class="figure">{{ size(found.kept_answers_bytes) }}</td>
        </tr>
        <tr>
          <td>memory that questions may use together</td>
          <td class="figure">{{ size(found.memory_for_questions) }}</td>
        </tr>
        <tr>
          <td>the longest that nobody was answered, in the last minute</td>
          <td class="figure">{{ Math.round(found.held_ms) }} ms</td>
        </tr>
        <tr>
          <td>records on the disk</td>
          <td class="figure">{{ size(found.records_bytes) }}</td>
        </tr>
      </tbody>
    </table>
    <h2>Questions</h2>
    <table v-if="found.questions.length" aria-label="Questions">
      <thead>
        <tr>
          <th scope="col">Who</th>
          <th scope="col">Model</th>
          <th scope="col">State</th>
          <th scope="col" class="figure">Memory</th>
          <th scope="col" class="figure">Seconds</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="each in found.questions" :key="each.number">
          <td>{{ each.person }}</td>
          <td>{{ each.model }}</td>
          <td>{{ each.is_running ? 'runs' : 'waits' }}</td>
          <td class="figure">{{ size(each.memory_bytes) }}</td>
          <td class="figure">{{ each.seconds.toFixed(1) }}</td>
          <td><button type="button" class="plain-button act" @click="end(each.number)">end it</button></td>
        </tr>
      </tbody>
    </table>
    <p v-else class="soft">None just now.</p>
  </template>
  <template v-if="all">
    <h2>Models</h2>
    <table aria-label="Models">
      <thead>
        <tr>
          <th scope="col">Model</th>
          <th scope="col">State</th>
          <th scope="col" class="figure">Records of its largest table</th>
          <th scope="col" class="figure">Prepared on the disk</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="each in all.models" :key="each.name">
          <td>{{ each.caption }}</td>
          <td>{{ { open: 'open', opening: 'being opened', failed: 'cannot be opened' }[each.state] }}</td>
          <td class="figure">{{ each.records.toLocaleString('en-GB') }}</td>
          <td class="figure">{{ size(each.prepared_bytes) }}</td>
        </tr>
      </tbody>
    </table>
  </template>
</template>

<style scoped src="./part.css" />
<style scoped>
h2 {
  margin: 26px 0 4px;
  font: 600 18px/24px var(--serif);
}

table {
  max-width: 760px;
}
</style>
