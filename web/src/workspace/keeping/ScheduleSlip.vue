<script setup lang="ts">
// What is made of a saved analysis by itself, when, and what came of it.
import { mdiClose } from '@mdi/js'
import { useIntervalFn } from '@vueuse/core'
import { onMounted, ref, shallowRef } from 'vue'
import { DELETE, GET, POST, body } from '@/api/client'
import type { MadeOfAnalysis, Makes, Result, Times } from '@/api/types'
import { momentSaid, whenSaid } from '@/library/entries'
import { useProblem } from '@/shell/problem'
import TimesPick from './TimesPick.vue'
import { MAKES, areWhole, makesWords, sizeWords, timesWords } from './times'

const props = defineProps<{ analysis: { id: string; name: string } }>()
const emit = defineEmits<{ close: [] }>()
const problem = useProblem()
const params = { path: { id: props.analysis.id } }
const made = shallowRef<MadeOfAnalysis | null>(null)
const makes = ref<Makes>('table.xlsx')
const times = ref<Times>({ every: 'week', weekdays: [0], day: 1, at: '07:00' })
const isMailed = ref(false)
const { pause, resume } = useIntervalFn(() => void load(), 700, { immediate: false })

/** Does something and looks what there is then. */
async function doing(act: () => Promise<unknown>): Promise<void> {
  try {
    await act()
    await load()
  } catch (error) {
    problem.tell(error)
  }
}

async function load(): Promise<void> {
  made.value = await body(GET('/api/analyses/{id}/made', { params }))
  if (made.value.results.some((each) => isUnderWay(each))) resume()
  else pause()
}

function isUnderWay(result: Result): boolean {
  return result.state === 'waiting' || result.state === 'running'
}

function setTimes(): Promise<void> {
  return doing(() =>
    body(
      POST('/api/analyses/{id}/schedules', {
        params,
        body: { makes: makes.value, times: times.value, is_mailed: isMailed.value },
      }),
    ),
  )
}

const makeNow = (): Promise<void> =>
  doing(() => body(POST('/api/analyses/{id}/made', { params, body: { makes: makes.value } })))
const endTimes = (id: string): Promise<void> =>
  doing(() => body(DELETE('/api/schedules/{id}', { params: { path: { id } } })))
const takeBack = (id: string): Promise<void> =>
  doing(() => body(DELETE('/api/jobs/{id}', { params: { path: { id } } })))

/** How far something is that is being made. */
function wayWords(result: Result): string {
  if (result.place) return 'waiting for its turn'
  return result.total ? `${result.done} of ${result.total} parts` : 'being made'
}

onMounted(() => doing(() => Promise.resolve()))
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="At set times"
    :model-value="true"
    width="560"
    @update:model-value="emit('close')"
  >
    <v-card>
      <form class="paper" @submit.prevent="setTimes">
        <h2>Make “{{ analysis.name }}” by itself</h2>
        <div v-for="each in made?.schedules ?? []" :key="each.id" class="person">
          <span class="name"
            >{{ makesWords(each.makes) }}, {{ timesWords(each.times)
            }}<span v-if="each.is_mailed" class="soft">, also by mail</span></span
          >
          <span class="soft">next {{ momentSaid(each.next_at) }}</span>
          <v-btn
            :icon="mdiClose"
            size="24"
            :aria-label="`No longer: ${makesWords(each.makes)}, ${timesWords(each.times)}`"
            title="No longer; what it made stays"
            @click="endTimes(each.id)"
          />
        </div>
        <v-select v-model="makes" label="What is made" :items="MAKES" />
        <TimesPick v-model="times" />
        <label class="mailed"
          ><input v-model="isMailed" type="checkbox" /> Also by mail to me, with what could not be made</label
        >
        <p class="soft note">
          It is made on fresh data, as far as you may see then, by the server’s clock{{
            made ? ` (${made.clock})` : ''
          }}. Only you read the files. A frozen copy lies beside the analysis: whoever may see that folder sees its
          numbers.
        </p>
        <template v-if="made?.results.length">
          <h3 class="small-caps">Made lately</h3>
          <div class="results">
            <div v-for="each in made.results" :key="each.id" class="person">
              <span class="name"
                >{{ makesWords(each.makes) }}
                <span class="soft">{{ whenSaid(each.ended_at ?? each.asked_at) }}</span><span
                  v-if="each.trouble"
                  class="wrong"
                  >{{ each.trouble }} {{ each.hint }}</span
                ></span
              >
              <template v-if="isUnderWay(each)"
                ><span class="soft" role="status">{{ wayWords(each) }}</span
                ><v-btn @click="takeBack(each.id)">Take it back</v-btn></template
              >
              <a v-else-if="each.file_bytes !== null" :href="`/api/jobs/${each.id}/file`" download
                >Download <span class="soft">{{ sizeWords(each.file_bytes) }}</span></a
              >
              <router-link v-else-if="each.frozen" :to="{ name: 'analysis', params: { id: each.frozen } }"
                >Open</router-link
              >
              <span v-else class="soft">{{
                each.state === 'taken_back' ? 'taken back' : each.state === 'done' ? 'deleted since' : 'not made'
              }}</span>
            </div>
          </div>
        </template>
        <footer>
          <v-btn @click="emit('close')">Close</v-btn>
          <v-btn title="It goes on when this page is closed" @click="makeNow">Make it now</v-btn>
          <v-btn type="submit" variant="flat" color="primary" :disabled="!areWhole(times)">Set this time</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./slip.css" />
<style scoped>
.mailed {
  display: flex;
  gap: 6px;
  align-items: center;
}

.results {
  max-height: 190px;
  overflow-y: auto;
}

h3 {
  margin: 4px 0 -8px;
}

.name .wrong {
  display: block;
}

a {
  color: inherit;
}
</style>
