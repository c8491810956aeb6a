<script setup lang="ts">
// Only some members of a level: so many, such a share of them, or the vital few that make most of a measure.
import { computed, ref } from 'vue'
import type { Gesture } from '@/api/types'
import { useWorkspace } from '../store'
import RemainingLine from './RemainingLine.vue'

const props = defineProps<{ dimension: string; hierarchy: string; level?: string | null }>()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const question = computed(() => workspace.document?.question)
const entry = computed(() =>
  workspace.catalogue?.dimensions
    .find((each) => each.name === props.dimension)
    ?.hierarchies.find((each) => each.name === props.hierarchy),
)
const placed = computed(() =>
  [...(question.value?.rows ?? []), ...(question.value?.columns ?? [])].find(
    (each) => each.dimension === props.dimension && each.hierarchy === props.hierarchy,
  ),
)
const levels = computed(() => {
  const all = entry.value?.levels ?? []
  const start = all.findIndex((each) => each.name === placed.value?.level)
  return all
    .slice(Math.max(start, 0))
    .filter((each) => !placed.value?.skipped?.includes(each.name))
    .map((each) => ({ value: each.name, title: each.caption }))
})
const level = ref(props.level ?? levels.value[0]?.value ?? '')
const begun = placed.value?.limits?.find((each) => each.level === level.value)
type Count = 'members' | 'percent_of_members' | 'percent_of_measure'
const count = ref<Count>(begun?.count ?? 'members')
const amount = ref(begun?.amount ?? 5)
const SIDES = [
  { value: 'largest', title: 'the largest' },
  { value: 'smallest', title: 'the smallest' },
]
const side = ref<'largest' | 'smallest'>(begun?.side ?? 'largest')
const measures = computed(() =>
  (workspace.catalogue?.folders ?? []).flatMap((folder) =>
    folder.measures.map((each) => ({ value: each.name, title: each.caption })),
  ),
)
const by = ref(begun?.by.measure ?? question.value?.measures?.[0]?.measure ?? '')
const per = ref<'parent' | 'whole'>(begun?.per ?? 'parent')
const others = ref(begun?.others ?? false)
const counts: { value: Count; title: string }[] = [
  { value: 'members', title: 'so many' },
  { value: 'percent_of_members', title: 'per cent of them' },
  { value: 'percent_of_measure', title: 'the vital few: those that make so many per cent' },
]
const isReady = computed(() => amount.value > 0 && (count.value === 'members' || amount.value <= 100) && !!by.value)
// A measure that is in the table ranks by the aggregate that it is shown by.
const ranking = computed(
  () =>
    question.value?.measures?.find((each) => each.measure === by.value && !each.view) ?? {
      measure: by.value,
      aggregate: null,
      percentile: null,
      view: null,
    },
)
const limit = computed(() => ({
  level: level.value,
  count: count.value,
  amount: amount.value,
  side: side.value,
  by: ranking.value,
  per: per.value,
  others: others.value,
}))
const gesture = computed<Gesture>(() => ({
  kind: 'set_limit',
  dimension: props.dimension,
  hierarchy: props.hierarchy,
  level: level.value,
  limit: limit.value,
}))

function act(wanted: Gesture): void {
  void workspace.act(wanted)
  emit('close')
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="Show only some members"
    :model-value="true"
    width="480"
    @update:model-value="emit('close')"
  >
    <v-card class="slip-body">
      <h2>Show only</h2>
      <form class="form" @submit.prevent="isReady && act(gesture)">
        <v-select v-model="count" :items="counts" aria-label="How they are counted" />
        <div class="line">
          <v-select v-model="side" :items="SIDES" aria-label="Which" />
          <v-text-field
            v-model.number="amount"
            type="number"
            min="0"
            step="any"
            aria-label="How many"
            class="short"
            :suffix="count === 'members' ? '' : '%'"
          />
          <v-select v-model="level" :items="levels" aria-label="Level" />
        </div>
        <div class="line">
          <span class="soft">{{ count === 'percent_of_measure' ? 'of' : 'by' }}</span><v-select
            v-model="by"
            :items="measures"
            aria-label="Measure"
          />
        </div>
        <div class="ways" role="radiogroup" aria-label="Ranked among">
          <label><input v-model="per" type="radio" value="parent" /> under each header</label>
          <label><input v-model="per" type="radio" value="whole" /> of all together</label>
        </div>
        <label><input v-model="others" type="checkbox" /> show the rest as <em>others</em></label>
        <RemainingLine v-if="isReady" :gesture="gesture" :dimension="dimension" :hierarchy="hierarchy" :level="level" />
        <footer>
          <v-btn v-if="begun" @click="act({ kind: 'set_limit', dimension, hierarchy, level, limit: null })"
            >Show all again</v-btn
          >
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn variant="flat" color="primary" type="submit" :disabled="!isReady">Show only these</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./form.css" />
