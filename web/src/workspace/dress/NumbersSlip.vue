<script setup lang="ts">
// How the numbers of a measure are written and marked. None of it changes a number.
import { computed, reactive, ref } from 'vue'
import type { NumberDress, ShownMeasure } from '@/api/types'
import { withPresent } from '../patterns'
import { useWorkspace } from '../store'
import { SIGNS, type Threshold } from '../table/marks'
import { isSamePlaced } from '../things'

const props = defineProps<{ measure: ShownMeasure; measures: readonly ShownMeasure[] }>()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const begun = props.measure.dress
const PATTERNS = [
  { value: '', title: 'as the model says' },
  { value: '#,##0', title: 'whole numbers' },
  { value: '#,##0.0', title: 'one decimal' },
  { value: '#,##0.00', title: 'two decimals' },
  { value: '#,##0;(#,##0)', title: 'whole, negatives in brackets' },
  { value: '#,##0.00;(#,##0.00)', title: 'two decimals, negatives in brackets' },
  { value: '0.0 %', title: 'per cent' },
  { value: '#,##0.00 ¤', title: `money, each with its ${props.measure.unit || 'unit'}` },
]
const patterns = computed(() => withPresent(PATTERNS, begun.pattern ?? ''))
const SCALES = [
  { value: 'one', title: 'unscaled' },
  { value: 'thousands', title: 'in thousands' },
  { value: 'millions', title: 'in millions' },
]
const SIDES = [
  { value: 'at_least', title: 'at least' },
  { value: 'at_most', title: 'at most' },
]
const MEANINGS = [
  { value: 'favourable', title: `${SIGNS.favourable} favourable` },
  { value: 'unfavourable', title: `${SIGNS.unfavourable} unfavourable` },
  { value: 'noted', title: `${SIGNS.noted} noted` },
]
const pattern = ref(begun.pattern ?? '')
const scale = ref(begun.scale ?? 'one')
const isTurned = ref(begun.is_turned ?? false)
const width = ref<string | number | null>(begun.width ?? '')
const inCell = ref(begun.in_cell ?? 'number')
const thresholds = reactive<Threshold[]>((begun.thresholds ?? []).map((each) => ({ ...each })))
const others = computed(() => [
  { value: '', title: 'as it is' },
  ...props.measures
    .filter((each) => each.name !== props.measure.name)
    .map((each) => ({ value: each.name, title: `times ${each.caption}` })),
])
const dress = computed<NumberDress>(() => ({
  measure: props.measure.placed,
  pattern: pattern.value || null,
  scale: scale.value,
  is_turned: isTurned.value,
  in_cell: inCell.value,
  width: width.value === '' || width.value === null ? null : Number(width.value),
  thresholds: thresholds.map((each) => ({ ...each, amount: Number(each.amount) })),
}))

function timesOf(threshold: Threshold): string {
  return props.measures.find((each) => threshold.times && isSamePlaced(each.placed, threshold.times))?.name ?? ''
}

function setTimes(threshold: Threshold, name: string): void {
  threshold.times = props.measures.find((each) => each.name === name)?.placed ?? null
}

function add(): void {
  thresholds.push({ side: 'at_least', amount: 0, times: null, meaning: 'noted' })
}

function apply(wanted: NumberDress): void {
  void workspace.act({ kind: 'dress_numbers', numbers: wanted })
  emit('close')
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    :aria-label="`The numbers of ${measure.caption}`"
    :model-value="true"
    width="720"
    @update:model-value="emit('close')"
  >
    <v-card class="slip-body">
      <h2>The numbers of {{ measure.caption }}</h2>
      <form class="form" @submit.prevent="apply(dress)">
        <div class="line">
          <span class="soft">Written</span><v-select v-model="pattern" :items="patterns" aria-label="Written" /><span
            class="soft"
            >and</span
          ><v-select v-model="scale" :items="SCALES" aria-label="Scale" />
        </div>
        <label><input v-model="isTurned" type="checkbox" /> with the sign turned</label>
        <div class="ways" role="radiogroup" aria-label="Behind each number">
          <span class="soft">Behind each number</span>
          <label><input v-model="inCell" type="radio" value="number" /> nothing</label>
          <label><input v-model="inCell" type="radio" value="bar" /> a bar</label>
          <label><input v-model="inCell" type="radio" value="shade" /> a shade</label>
        </div>
        <p v-if="thresholds.length" class="soft hint">
          Thresholds look at the numbers as they are, before scale and sign; the first that holds marks the cell.
        </p>
        <div v-for="(each, at) in thresholds" :key="at" class="line" role="group" :aria-label="`Threshold ${at + 1}`">
          <span class="soft">If</span>
          <v-select v-model="each.side" :items="SIDES" aria-label="Side" />
          <v-text-field v-model="each.amount" type="number" step="any" aria-label="Amount" />
          <v-select
            v-if="others.length > 1"
            :model-value="timesOf(each)"
            :items="others"
            aria-label="Compared with"
            @update:model-value="setTimes(each, $event)"
          />
          <v-select v-model="each.meaning" :items="MEANINGS" aria-label="Means" />
          <v-btn :aria-label="`Take threshold ${at + 1} away`" @click="thresholds.splice(at, 1)">×</v-btn>
        </div>
        <div><v-btn @click="add">Add a threshold</v-btn></div>
        <div class="line">
          <span class="soft">Their columns are</span
          ><v-text-field
            v-model="width"
            type="number"
            min="40"
            max="800"
            placeholder="as needed"
            aria-label="Width of the columns"
          /><span class="soft">pixels wide</span>
        </div>
        <footer>
          <v-btn
            @click="
              apply({
                measure: measure.placed,
                pattern: null,
                scale: 'one',
                is_turned: false,
                in_cell: 'number',
                thresholds: [],
                width: null,
              })
            "
            >As it was</v-btn
          >
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn variant="flat" color="primary" type="submit">Dress them so</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../narrowing/form.css" />
<style scoped>
.hint {
  margin: 0;
  font-size: 12px;
}
</style>
