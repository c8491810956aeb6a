<script setup lang="ts">
// A period in words: one that moves with today or with the data, or from one day to another.
import { computed, ref } from 'vue'
import type { Condition, Gesture } from '@/api/types'
import RemainingLine from './RemainingLine.vue'

const props = defineProps<{ dimension: string; day: string; at?: number | null; present?: Condition | null }>()
const emit = defineEmits<{ act: [gesture: Gesture] }>()

type Unit = 'day' | 'week' | 'month' | 'quarter' | 'year' | 'financial_quarter' | 'financial_year'
const units: { value: Unit; title: string }[] = [
  { value: 'day', title: 'days' },
  { value: 'week', title: 'weeks' },
  { value: 'month', title: 'months' },
  { value: 'quarter', title: 'quarters' },
  { value: 'year', title: 'years' },
  { value: 'financial_quarter', title: 'financial quarters' },
  { value: 'financial_year', title: 'financial years' },
]
/** Of this one its name, of the last few what they are called together. */
const unitsShown = computed(() =>
  kind.value === 'this' ? units.map((each) => ({ ...each, title: each.title.slice(0, -1) })) : units,
)
const period = props.present?.kind === 'period' ? props.present : null
const kind = ref<'this' | 'last' | 'dates'>(period && period.first < 0 ? 'last' : 'this')
const withPresent = ref(period !== null && period.first < 0 && period.last === 0)
const unit = ref<Unit>(period?.unit ?? 'year')
const count = ref(period && period.first < 0 ? -period.first : 1)
const toDate = ref(period?.to_date ?? false)
const ANCHORS = [
  { value: 'today', title: 'today' },
  { value: 'newest', title: 'the newest day in the data' },
]
const anchor = ref<'today' | 'newest'>(period?.anchor ?? 'today')
const action = ref<'keep' | 'leave_out'>(props.present?.action ?? 'keep')
const first = ref('')
const last = ref('')
const isReady = computed(() =>
  kind.value === 'dates' ? !!first.value && !!last.value && first.value <= last.value : count.value > 0,
)
const wrong = computed(() =>
  kind.value === 'dates' && first.value && last.value && first.value > last.value ? 'It ends before it begins.' : '',
)

const condition = computed<Condition>(() => {
  const { dimension, day } = props
  if (kind.value === 'dates') {
    return {
      kind: 'attribute',
      dimension,
      attribute: day,
      operator: 'between',
      values: [first.value, last.value],
      on: 'key',
      action: action.value,
    }
  }
  const [from, to] = kind.value === 'this' ? [0, 0] : [-Math.round(count.value), withPresent.value ? 0 : -1]
  return {
    kind: 'period',
    dimension,
    unit: unit.value,
    first: from,
    last: to,
    anchor: anchor.value,
    to_date: toDate.value,
    action: action.value,
  }
})
const gesture = computed<Gesture>(() => ({ kind: 'put_filter', condition: condition.value, at: props.at ?? null }))
</script>

<template>
  <form class="period" @submit.prevent="isReady && emit('act', gesture)">
    <div role="radiogroup" aria-label="What to do with the period" class="ways">
      <label><input v-model="action" type="radio" value="keep" /> keep only</label>
      <label><input v-model="action" type="radio" value="leave_out" /> leave out</label>
    </div>
    <div role="radiogroup" aria-label="Which period" class="choices">
      <label><input v-model="kind" type="radio" value="this" /> this</label>
      <label><input v-model="kind" type="radio" value="last" /> the last</label>
      <label><input v-model="kind" type="radio" value="dates" /> from one day to another</label>
    </div>
    <div v-if="kind !== 'dates'" class="line">
      <v-text-field
        v-if="kind === 'last'"
        v-model.number="count"
        type="number"
        min="1"
        aria-label="How many"
        class="short"
      />
      <v-select v-model="unit" :items="unitsShown" aria-label="Units" />
    </div>
    <div v-else class="line">
      <v-text-field v-model="first" type="date" label="From" />
      <v-text-field v-model="last" type="date" label="To" />
    </div>
    <template v-if="kind !== 'dates'">
      <label v-if="kind === 'last'"><input v-model="withPresent" type="checkbox" /> and this one</label>
      <label
        ><input v-model="toDate" type="checkbox" />
        {{ kind === 'this' ? 'only so far' : 'only as far as the same part of it' }}</label
      >
      <div class="line">
        <span class="soft">counted from</span><v-select v-model="anchor" :items="ANCHORS" aria-label="Counted from" />
      </div>
    </template>
    <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
    <RemainingLine v-if="isReady" :gesture="gesture" :dimension="dimension" />
    <footer>
      <v-btn variant="flat" color="primary" type="submit" :disabled="!isReady">{{
        action === 'keep' ? 'Keep this period' : 'Leave it out'
      }}</v-btn>
    </footer>
  </form>
</template>

<style scoped src="./form.css" />
