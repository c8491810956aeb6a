<script setup lang="ts">
// A condition on records: by an attribute, by a measure, by the reason for which they belong nowhere, or by a period.
import { computed, ref } from 'vue'
import type { Condition, Gesture } from '@/api/types'
import { useWorkspace } from '../store'
import PeriodForm from './PeriodForm.vue'
import RemainingLine from './RemainingLine.vue'

const props = defineProps<{ dimension?: string | null; at?: number | null }>()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const present = computed<Condition | null>(() =>
  props.at === null || props.at === undefined ? null : (workspace.document?.question?.filters?.[props.at] ?? null),
)
const name = dimensionOf(present.value) ?? props.dimension ?? ''
const entry = computed(() => workspace.catalogue?.dimensions.find((each) => each.name === name))
const measures = computed(() =>
  (workspace.catalogue?.folders ?? []).flatMap((folder) =>
    folder.measures.map((each) => ({ value: each.name, title: each.caption })),
  ),
)
const levels = computed(() =>
  (entry.value?.hierarchies ?? []).flatMap((hierarchy) =>
    hierarchy.levels.map((level) => ({ value: `${hierarchy.name}/${level.name}`, title: level.caption })),
  ),
)

type Way = 'attribute' | 'measure' | 'key' | 'period'
type Operator =
  | 'equal'
  | 'not_equal'
  | 'less'
  | 'at_most'
  | 'more'
  | 'at_least'
  | 'between'
  | 'contains'
  | 'begins_with'
  | 'ends_with'
const begun = present.value
const way = ref<Way>(
  begun && begun.kind !== 'members' && begun.kind !== 'ready' && begun.kind !== 'group'
    ? (begun.kind as Way)
    : 'measure',
)
const action = ref<'keep' | 'leave_out'>(begun?.action ?? 'keep')
const attribute = ref(begun?.kind === 'attribute' ? begun.attribute : (entry.value?.attributes.at(-1)?.name ?? ''))
const ON = [
  { value: 'caption', title: 'by name' },
  { value: 'key', title: 'by key' },
]
const on = ref<'key' | 'caption'>(begun?.kind === 'attribute' ? (begun.on ?? 'key') : 'caption')
const operator = ref<Operator>(begun?.kind === 'attribute' || begun?.kind === 'measure' ? begun.operator : 'more')
const text = ref(
  begun?.kind === 'attribute' || begun?.kind === 'measure'
    ? begun.values.map((each) => (typeof each === 'object' ? '' : String(each))).join('; ')
    : '',
)
const measure = ref(
  begun?.kind === 'measure'
    ? begun.measure
    : (workspace.document?.question?.measures?.[0]?.measure ?? measures.value[0]?.value ?? ''),
)
const placed = [...(workspace.document?.question?.rows ?? []), ...(workspace.document?.question?.columns ?? [])].find(
  (each) => each.dimension === name,
)
const level = ref(
  begun?.kind === 'measure' && begun.at[0]
    ? `${begun.at[0].hierarchy}/${begun.at[0].level}`
    : placed
      ? `${placed.hierarchy}/${placed.level}`
      : (levels.value[0]?.value ?? ''),
)
const state = ref<'left_blank' | 'key_unknown'>(begun?.kind === 'key' ? begun.state : 'left_blank')

// What the slip does not show of a condition on a measure stays as it is.
const kept = begun?.kind === 'measure' ? { at: begun.at.slice(1), per: begun.per ?? null } : { at: [], per: null }
const keptWords = [...kept.at, ...(kept.per ? [kept.per] : [])]
  .map((each) => workspace.catalogue?.dimensions.find((one) => one.name === each.dimension)?.caption.toLowerCase())
  .join(' and ')

const ways = computed(() => [
  { value: 'measure', title: 'by a measure' },
  { value: 'attribute', title: 'by what they are called or have' },
  ...(entry.value?.day ? [{ value: 'period', title: 'by a period' }] : []),
  ...(entry.value?.has_key ? [{ value: 'key', title: 'those that belong nowhere' }] : []),
])
const compares: { value: Operator; title: string }[] = [
  { value: 'equal', title: 'is' },
  { value: 'not_equal', title: 'is not' },
  { value: 'more', title: 'is more than' },
  { value: 'at_least', title: 'is at least' },
  { value: 'less', title: 'is less than' },
  { value: 'at_most', title: 'is at most' },
  { value: 'between', title: 'is between' },
]
const texts: { value: Operator; title: string }[] = [
  { value: 'contains', title: 'contains' },
  { value: 'begins_with', title: 'begins with' },
  { value: 'ends_with', title: 'ends with' },
]
const operators = computed(() => (way.value === 'measure' ? compares : [...compares, ...texts]))
const parts = computed(() =>
  text.value
    .split(';')
    .map((each) => each.trim())
    .filter(Boolean),
)
const needs = computed(() => (operator.value === 'between' ? 2 : 1))
const wrong = computed(() => {
  if (!text.value.trim()) return ''
  if (way.value === 'measure' && parts.value.some((each) => !Number.isFinite(Number(each.replaceAll(',', '')))))
    return 'Write digits, as in 10000 or 2.5.'
  return parts.value.length < needs.value ? 'Write both ends with a semicolon between.' : ''
})
const isReady = computed(() => way.value === 'key' || (parts.value.length >= needs.value && !wrong.value))

function dimensionOf(condition: Condition | null): string | null {
  if (!condition) return null
  if (condition.kind === 'measure') return condition.at[0]?.dimension ?? null
  return 'dimension' in condition ? condition.dimension : null
}

/** A number where it reads as one and keys are compared: captions are text. */
function valueOf(part: string): string | number {
  const plain = part.replaceAll(',', '')
  const isNumber = plain !== '' && Number.isFinite(Number(plain))
  return isNumber && (way.value === 'measure' || on.value === 'key') && !/^0\d/.test(plain) ? Number(plain) : part
}

const condition = computed<Condition>(() => {
  if (way.value === 'key') return { kind: 'key', dimension: name, state: state.value, action: action.value }
  if (way.value === 'measure') {
    const [hierarchy = '', of = ''] = level.value.split('/')
    const values = parts.value.map((each) => Number(each.replaceAll(',', '')))
    return {
      kind: 'measure',
      measure: measure.value,
      at: [{ dimension: name, hierarchy, level: of }, ...kept.at],
      per: kept.per,
      operator: operator.value as 'more',
      values,
      action: action.value,
    }
  }
  return {
    kind: 'attribute',
    dimension: name,
    attribute: attribute.value,
    operator: operator.value,
    values: parts.value.map(valueOf),
    on: on.value,
    action: action.value,
  }
})
const gesture = computed<Gesture>(() => ({ kind: 'put_filter', condition: condition.value, at: props.at ?? null }))

function act(wanted: Gesture): void {
  void workspace.act(wanted)
  emit('close')
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="A condition"
    :model-value="true"
    width="480"
    @update:model-value="emit('close')"
  >
    <v-card class="slip-body">
      <h2>Which {{ entry?.caption.toLowerCase() }} records?</h2>
      <v-select v-model="way" :items="ways" aria-label="By what" />
      <PeriodForm
        v-if="way === 'period' && entry?.day"
        :dimension="name"
        :day="entry.day"
        :at="at"
        :present="present"
        @act="act"
      />
      <form v-else class="form" @submit.prevent="isReady && act(gesture)">
        <div role="radiogroup" aria-label="What to do with them" class="ways">
          <label><input v-model="action" type="radio" value="keep" /> keep only</label>
          <label><input v-model="action" type="radio" value="leave_out" /> leave out</label>
        </div>
        <template v-if="way === 'key'">
          <label
            ><input v-model="state" type="radio" value="left_blank" /> records whose
            {{ entry?.caption.toLowerCase() }} is left blank</label
          >
          <label
            ><input v-model="state" type="radio" value="key_unknown" /> records whose
            {{ entry?.caption.toLowerCase() }} is not known</label
          >
        </template>
        <template v-else>
          <div v-if="way === 'measure'" class="line">
            <v-select v-model="level" :items="levels" aria-label="Members of" /><span class="soft">with</span>
            <v-select v-model="measure" :items="measures" aria-label="Measure" />
          </div>
          <div v-else class="line">
            <v-select
              v-model="attribute"
              :items="entry?.attributes.map((each) => ({ value: each.name, title: each.caption })) ?? []"
              aria-label="Attribute"
            />
            <v-select v-model="on" :items="ON" aria-label="Compared by" class="by" />
          </div>
          <div class="line">
            <v-select v-model="operator" :items="operators" aria-label="Comparison" />
            <v-text-field
              v-model="text"
              aria-label="Value"
              :placeholder="operator === 'between' ? '10; 20' : 'a value, or several with ; between'"
            />
          </div>
        </template>
        <p v-if="way === 'measure' && keptWords" class="soft">Taken for each {{ keptWords }} as well, as it was.</p>
        <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
        <RemainingLine
          v-if="isReady"
          :gesture="gesture"
          :dimension="name"
          :hierarchy="way === 'measure' ? level.split('/')[0] : undefined"
          :level="way === 'measure' ? level.split('/')[1] : undefined"
        />
        <footer>
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn variant="flat" color="primary" type="submit" :disabled="!isReady">{{
            action === 'keep' ? 'Keep these' : 'Leave these out'
          }}</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./form.css" />
