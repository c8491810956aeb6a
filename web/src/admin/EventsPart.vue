<script setup lang="ts">
// What was done by whom, newest first.
import { useDebounceFn } from '@vueuse/core'
import { onMounted, ref, shallowRef } from 'vue'
import { GET, body } from '@/api/client'
import type { LoggedEvent } from '@/api/types'
import { whenSaid } from '@/library/entries'
import { useProblem } from '@/shell/problem'
import { eventWords } from './events'

const PAGE = 100
const problem = useProblem()
const words = ref('')
const events = shallowRef<LoggedEvent[] | null>(null)
const hasMore = ref(false)

async function load(before?: number): Promise<void> {
  const found = await body(
    GET('/api/administration/events', { params: { query: { words: words.value ?? '', before } } }),
  )
  events.value = before === undefined ? found : [...(events.value ?? []), ...found]
  hasMore.value = found.length === PAGE
}

const look = useDebounceFn(() => load().catch(problem.tell), 250)
onMounted(look)
</script>

<template>
  <h1>What was done</h1>
  <p class="lead">Signed in and failed, shared, taken away, rights changed. Nothing here is ever changed.</p>
  <v-text-field
    v-model="words"
    class="search"
    placeholder="Find a name, a model, a day"
    aria-label="Find in what was done"
    clearable
    @update:model-value="look"
  />
  <table v-if="events?.length" aria-label="What was done">
    <thead>
      <tr>
        <th scope="col">When</th>
        <th scope="col">What</th>
        <th scope="col">From</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="event in events" :key="event.number">
        <td class="when" :title="event.at">{{ whenSaid(event.at) }}</td>
        <td>{{ eventWords(event) }}</td>
        <td class="soft">{{ event.address }}</td>
      </tr>
    </tbody>
  </table>
  <p v-else-if="events" class="soft">Nothing of the kind.</p>
  <v-btn v-if="hasMore" class="more" @click="load(events?.at(-1)?.number).catch(problem.tell)">Older</v-btn>
</template>

<style scoped src="./part.css" />
<style scoped>
.search {
  max-width: 320px;
  margin-bottom: 10px;
}

.when {
  white-space: nowrap;
}

.more {
  margin-top: 12px;
}
</style>
