<script setup lang="ts">
// When the model's files were read and what came of it; and reading them now.
import { useIntervalFn } from '@vueuse/core'
import { computed, onMounted, shallowRef } from 'vue'
import { GET, POST, body } from '@/api/client'
import type { Readings } from '@/api/types'
import { momentSaid } from '@/library/entries'
import { useProblem } from '@/shell/problem'
import FetchedFiles from './FetchedFiles.vue'
import { useShaping } from './shaping'
import { many } from './words'

const emit = defineEmits<{ close: [] }>()
const shaping = useShaping()
const problem = useProblem()
const found = shallowRef<Readings | null>(null)
const since = computed(() => (found.value?.since ? `It answers from files of ${momentSaid(found.value.since)}.` : ''))
const at = { params: { path: shaping.path } }

async function look(): Promise<void> {
  try {
    found.value = await body(GET('/api/modelling/{model}/readings', at))
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

/** "2.4 s", or "41 ms" of what is quick. */
function took(seconds: number): string {
  return seconds < 0.1 ? `${Math.round(seconds * 1000)} ms` : `${seconds.toFixed(1)} s`
}

onMounted(look)
useIntervalFn(() => found.value?.is_reading && void look(), 700)
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="Its files"
    :model-value="true"
    width="560"
    scrollable
    @update:model-value="emit('close')"
  >
    <v-card>
      <div class="paper">
        <h2>When its files were read</h2>
        <p class="soft note">They are read anew as soon as they change. {{ since }}</p>
        <p v-if="found?.behind" class="wrong" role="alert">
          Newer files could not be read: what was read before goes on answering.
        </p>
        <ul class="happened" tabindex="0">
          <li v-for="(each, place) in found?.readings ?? []" :key="place">
            <div class="line">
              <strong>{{ momentSaid(each.began_at) }}</strong><span class="soft">{{ took(each.seconds) }}</span>
            </div>
            <p v-if="each.trouble" class="wrong">{{ each.trouble }} {{ each.hint }}</p>
            <p v-else class="soft">
              {{ many(each.records, 'record')
              }}<template v-if="each.noticed">, {{ many(each.noticed, 'thing') }} noticed</template>
            </p>
          </li>
          <li v-if="found && !found.readings.length" class="soft">Nothing is known of it yet.</li>
        </ul>
        <FetchedFiles @fetched="look" />
        <template v-if="found?.noticed.length">
          <h3 class="small-caps">Noticed in what it answers from</h3>
          <ul class="happened" tabindex="0">
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
<style scoped src="./happened.css" />
<style scoped>
footer {
  align-items: center;
}
</style>
