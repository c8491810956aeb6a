<script setup lang="ts">
// What of the model came from a database, and fetching it again.
import { onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import { ApiError, GET, POST, body } from '@/api/client'
import type { FetchedFile } from '@/api/types'
import { momentSaid } from '@/library/entries'
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

async function look(): Promise<void> {
  files.value = await body(GET('/api/modelling/{model}/fetched', { params: { path: shaping.path } })).catch(
    (error: unknown) => (problem.tell(error), []),
  )
}

/** What a view that gives others each time, or a fault, leaves to be looked into. */
function differing(each: FetchedFile): string {
  const said =
    each.records_there !== null && each.records_there !== each.records
      ? [`there are ${many(each.records_there, 'record')}`]
      : []
  const sums = each.differing.length
    ? [
        `${each.differing.map((name) => `“${name}”`).join(', ')} ${each.differing.length > 1 ? 'add' : 'adds'} up to something else`,
      ]
    : []
  const words = [...said, ...sums].join(', and ')
  return (
    words &&
    `${many(each.records, 'record')} came. Asked again at once, the database said that ${words}. Is it a view that gives something else each time?`
  )
}

/** What came, and that it is what the database counts, where that was asked. */
function agreed(each: FetchedFile): string {
  const sums = each.sums ? ` and ${many(each.sums, 'sum')}` : ''
  return many(each.records, 'record') + (each.records_there === null ? '' : `${sums}, as the database counts them`)
}

/** All of it, or nothing is changed. */
async function fetchAgain(): Promise<void> {
  refused.value = ''
  isFetching.value = true
  try {
    await follow((question) =>
      body(POST('/api/modelling/{model}/fetched', { params: { path: shaping.path, query: { question } } })),
    )
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
          <span
            >{{ each.asked }}
            <span class="soft">{{
              each.connection ? `of ${each.connection}` : 'of a connection that is gone'
            }}</span></span
          >
          <span class="soft">{{ momentSaid(each.at) }}</span>
        </div>
        <p v-if="differing(each)" class="wrong">{{ differing(each) }}</p>
        <p v-else class="soft">{{ agreed(each) }}</p>
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
.go {
  display: block;
  margin-top: 6px;
}
</style>
