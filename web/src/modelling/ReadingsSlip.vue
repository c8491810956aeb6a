<script setup lang="ts">
// When the model's files were read and what came of it; and reading them now.
import { useIntervalFn } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import { ApiError, GET, POST, body } from '@/api/client'
import type { FetchedFile, Readings } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWaiting } from '@/workspace/waiting'
import { useShaping } from './shaping'
import { many } from './words'

const emit = defineEmits<{ close: [] }>()
const shaping = useShaping()
const problem = useProblem()
const found = shallowRef<Readings | null>(null)
const time = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' })
const fetched = shallowRef<FetchedFile[]>([])
const { waiting, follow, takeBack } = useWaiting()
const isFetching = ref(false)
const refused = ref('')
const since = computed(() => (found.value?.since ? `It answers from files of ${time.format(new Date(found.value.since))}.` : ''))
const at = { params: { path: shaping.path } }

async function look(): Promise<void> {
  try {
    found.value = await body(GET('/api/modelling/{model}/readings', at))
    fetched.value = await body(GET('/api/modelling/{model}/fetched', at))
  } catch (error) {
    problem.tell(error)
    emit('close')
  }
}

async function readNow(): Promise<void> {
  try {
    found.value = await body(POST('/api/modelling/{model}/readings', at))
  } catch (error) {
    problem.tell(error)
  }
}

/** Fetches what came from a database anew: all of it, or nothing is changed. */
async function fetchAgain(): Promise<void> {
  refused.value = ''
  isFetching.value = true
  try {
    await follow((question) => body(POST('/api/modelling/{model}/fetched', { params: { path: shaping.path, query: { question } } })))
    await look()
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    if (error.code !== 'cancelled') refused.value = `${error.message} ${error.hint}`
  } finally {
    isFetching.value = false
  }
}

/** "2.4 s", or "41 ms" of what is quick. */
function took(seconds: number): string {
  return seconds < 0.1 ? `${Math.round(seconds * 1000)} ms` : `${seconds.toFixed(1)} s`
}

onMounted(look)
onBeforeUnmount(takeBack)
useIntervalFn(() => found.value?.is_reading && void look(), 700)
</script>

<template>
  <v-dialog class="beside" scrim="transparent" aria-label="Its files" :model-value="true" width="560" scrollable @update:model-value="emit('close')">
    <v-card>
      <div class="paper">
        <h2>When its files were read</h2>
        <p class="soft note">They are read anew as soon as they change. {{ since }}</p>
        <p v-if="found?.behind" class="wrong" role="alert">Newer files could not be read: what was read before goes on answering.</p>
        <ul class="readings" tabindex="0">
          <li v-for="(each, place) in found?.readings ?? []" :key="place">
            <div class="line"><strong>{{ time.format(new Date(each.began_at)) }}</strong><span class="soft">{{ took(each.seconds) }}</span></div>
            <p v-if="each.trouble" class="wrong">{{ each.trouble }} {{ each.hint }}</p>
            <p v-else class="soft">{{ many(each.records, 'record') }}<template v-if="each.noticed">, {{ many(each.noticed, 'thing') }} noticed</template></p>
          </li>
          <li v-if="found && !found.readings.length" class="soft">Nothing is known of it yet.</li>
        </ul>
        <template v-if="fetched.length">
          <h3 class="small-caps">From a database</h3>
          <ul class="readings" tabindex="0">
            <li v-for="each in fetched" :key="each.file" class="line">
              <span>{{ each.asked }} <span class="soft">{{ each.connection ? `of ${each.connection}` : 'of a connection that is gone' }}</span></span>
              <span class="soft">{{ many(each.records, 'record') }}, {{ time.format(new Date(each.at)) }}</span>
            </li>
          </ul>
          <p v-if="refused" class="wrong" role="alert">{{ refused }} Nothing was changed.</p>
          <p v-if="isFetching" class="soft" role="status">They are being fetched{{ waiting?.words ?? '' }}…</p>
          <button v-else type="button" class="plain-button go" @click="fetchAgain">Fetch them again</button>
        </template>
        <template v-if="found?.noticed.length">
          <h3 class="small-caps">Noticed in what it answers from</h3>
          <ul class="readings noticed" tabindex="0">
            <li v-for="each in found.noticed" :key="each">{{ each }}</li>
          </ul>
        </template>
        <footer>
          <span v-if="found?.is_reading" class="soft" role="status">They are being read…</span>
          <v-btn :disabled="found?.is_reading ?? true" @click="readNow">Read them now</v-btn>
          <v-btn @click="emit('close')">Close</v-btn>
        </footer>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../workspace/keeping/slip.css" />
<style scoped>
.readings {
  max-height: 30vh;
  margin: 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}

li {
  padding: 6px 0;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.line {
  display: flex;
  justify-content: space-between;
}

p {
  margin: 0;
  overflow-wrap: anywhere;
}

.wrong {
  color: rgb(var(--v-theme-error));
}

.go {
  margin-top: 6px;
  color: rgb(var(--v-theme-secondary));
  border-bottom: 1px solid currentColor;
}

h3 {
  margin: 12px 0 0;
}

footer {
  align-items: center;
}
</style>
