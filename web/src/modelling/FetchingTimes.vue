<script setup lang="ts">
// When what came from a database is fetched again by itself, and why it was not.
import { mdiClose } from '@mdi/js'
import { onMounted, ref, shallowRef } from 'vue'
import { DELETE, GET, PUT, body } from '@/api/client'
import type { FetchingTimes, Times } from '@/api/types'
import { momentSaid } from '@/library/entries'
import { useProblem } from '@/shell/problem'
import TimesPick from '@/workspace/keeping/TimesPick.vue'
import { areWhole, timesWords } from '@/workspace/keeping/times'
import { useShaping } from './shaping'

const shaping = useShaping()
const problem = useProblem()
const params = { path: shaping.path }
const set = shallowRef<FetchingTimes | null>(null)
const isSetting = ref(false)
const times = ref<Times>({ every: 'day', weekdays: [0], day: 1, at: '05:00' })

async function trying(act: () => Promise<unknown>): Promise<void> {
  try {
    await act()
    set.value = await body(GET('/api/modelling/{model}/fetched/times', { params }))
    isSetting.value = false
  } catch (error) {
    problem.tell(error)
  }
}

const put = (): Promise<void> =>
  trying(() => body(PUT('/api/modelling/{model}/fetched/times', { params, body: times.value })))
const end = (): Promise<void> => trying(() => DELETE('/api/modelling/{model}/fetched/times', { params }))

onMounted(() => trying(() => Promise.resolve()))
</script>

<template>
  <div v-if="set" class="line">
    <span
      >Fetched again {{ timesWords(set.times) }}
      <span class="soft">({{ set.clock }}), next {{ momentSaid(set.next_at) }}</span></span
    >
    <v-btn
      :icon="mdiClose"
      size="24"
      :aria-label="`No longer ${timesWords(set.times)}`"
      title="Only by hand from now on"
      @click="end"
    />
  </div>
  <p v-if="set?.trouble" class="wrong">
    {{ momentSaid(set.ended_at ?? set.next_at) }}: {{ set.trouble }} {{ set.hint }} Nothing was changed.
  </p>
  <form v-if="isSetting" class="setting" @submit.prevent="put">
    <TimesPick v-model="times" />
    <footer>
      <v-btn @click="isSetting = false">Leave it</v-btn>
      <v-btn type="submit" variant="flat" color="primary" :disabled="!areWhole(times)">Set this time</v-btn>
    </footer>
  </form>
  <button v-else-if="!set" type="button" class="plain-button go" @click="isSetting = true">
    Fetch them at set times…
  </button>
</template>

<style scoped src="../workspace/keeping/slip.css" />
<style scoped src="./happened.css" />
<style scoped>
.line {
  align-items: center;
}

.setting {
  display: grid;
  gap: 8px;
  padding-top: 14px;
}
</style>
