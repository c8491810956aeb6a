<script setup lang="ts">
// What of the model came from a database, and fetching it again.
import { onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import { ApiError, GET, POST, body } from '@/api/client'
import type { FetchedFile } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWaiting } from '@/workspace/waiting'
import FetchingTimes from './FetchingTimes.vue'
import { useShaping } from './shaping'
import { many } from './words'

const emit = defineEmits<{ fetched: [] }>()
const shaping = useShaping()
const problem = useProblem()
const files = shallowRef<FetchedFile[]>([])
const { waiting, follow, takeBack } = useWaiting()
const isFetching = ref(false)
const refused = ref('')
const time = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' })

async function look(): Promise<void> {
  files.value = await body(GET('/api/modelling/{model}/fetched', { params: { path: shaping.path } })).catch((error: unknown) => (problem.tell(error), []))
}

/** What a view that gives others each time, or a fault, leaves to be looked into. */
function differing(each: FetchedFile): string {
  const names = each.differing.filter((name) => name !== 'records').map((name) => `“${name}”`)
  const count = each.differing.includes('records') ? ['how many records there are'] : []
  const sums = names.length ? [`what ${names.join(', ')} ${names.length > 1 ? 'add' : 'adds'} up to`] : []
  return `Asked again at once, the database said otherwise of ${[...count, ...sums].join(', and of ')}. Does it give others each time?`
}

/** All of it, or nothing is changed. */
async function fetchAgain(): Promise<void> {
  refused.value = ''
  isFetching.value = true
  try {
    await follow((question) => body(POST('/api/modelling/{model}/fetched', { params: { path: shaping.path, query: { question } } })))
    emit('fetched')
    await look()
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    if (error.code !== 'cancelled') refused.value = `${error.message} ${error.hint}`
  } finally {
    isFetching.value = false
  }
}

onMounted(look)
onBeforeUnmount(takeBack)
</script>

<template>
  <div v-if="files.length">
    <h3 class="small-caps">From a database</h3>
    <ul class="happened" tabindex="0">
      <li v-for="each in files" :key="each.file">
        <div class="line">
          <span>{{ each.asked }} <span class="soft">{{ each.connection ? `of ${each.connection}` : 'of a connection that is gone' }}</span></span>
          <span class="soft">{{ time.format(new Date(each.at)) }}</span>
        </div>
        <p v-if="each.differing.length" class="wrong">{{ differing(each) }}</p>
        <p v-else class="soft">{{ many(each.records, 'record') }}{{ each.sums ? ` and ${many(each.sums, 'sum')}` : '' }}, as the database counts them</p>
      </li>
    </ul>
    <p v-if="refused" class="wrong" role="alert">{{ refused }} Nothing was changed.</p>
    <p v-if="isFetching" class="soft" role="status">They are being fetched{{ waiting?.words ?? '' }}…</p>
    <button v-else type="button" class="plain-button go" @click="fetchAgain">Fetch them again</button>
    <FetchingTimes />
  </div>
</template>

<style scoped src="../workspace/keeping/slip.css" />
<style scoped src="./happened.css" />
<style scoped>
.happened {
  max-height: 30vh;
}

h3 {
  margin: 12px 0 0;
}

.go {
  display: block;
  margin-top: 6px;
}
</style>
