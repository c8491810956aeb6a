<script setup lang="ts">
// A measure: each field is a step once it is left, and what it comes to stands beside at once.
import { computed, ref, watch } from 'vue'
import type { ModelMeasure } from '@/api/types'
import { numberPatterns } from './formats'
import ConditionList from '../rights/ConditionList.vue'
import LeaveOut from '../LeaveOut.vue'
import { useShaping } from '../shaping'
import { AGGREGATES, columnOf, kindWords, quoted, tableCaption } from '../words'

const props = defineProps<{ measure: ModelMeasure }>()
const shaping = useShaping()
const form = ref(fresh(props.measure))
watch(
  () => props.measure,
  (own) => (form.value = fresh(own)),
)

function fresh(own: ModelMeasure) {
  return {
    caption: own.caption,
    expression: own.expression ?? '',
    unit: own.unit,
    folder: own.folder,
    description: own.description,
    synonyms: own.synonyms.join(', '),
    format: own.format,
    formula: shaping.shaped?.formulas[own.name] ?? '',
    weight: own.weight ?? '',
    percentile: own.percentile ?? 90,
  }
}

const columns = computed(() => shaping.tableLook(props.measure.table)?.columns ?? [])
const column = computed(() => columnOf(props.measure.expression))
const holds = computed(() => columns.value.find((each) => each.name === column.value))
const isNumber = computed(() => ['whole', 'decimal', 'float'].includes(holds.value?.profile?.kind ?? ''))
const isKey = computed(() => !!shaping.model?.tables[props.measure.table]?.columns?.[column.value ?? '']?.is_key)
const isOfOthers = computed(() => ['ratio', 'formula'].includes(props.measure.aggregate))
const takesColumn = computed(() => !['count', 'open', 'ratio', 'formula'].includes(props.measure.aggregate))
const takesTime = computed(() => ['balance', 'open', 'first', 'last'].includes(props.measure.aggregate))
const calendars = computed(() =>
  (shaping.model?.dimensions ?? []).filter(
    (each) =>
      shaping.model?.tables[each.table]?.calendar || shaping.model?.measures.some((one) => one.time === each.name),
  ),
)
const others = computed(() => (shaping.model?.measures ?? []).filter((each) => each.name !== props.measure.name))
const days = computed(() => columns.value.filter((each) => ['day', 'moment'].includes(each.profile?.kind ?? '')))
const patterns = computed(() => numberPatterns(props.measure.format))
/** Dimensions that the records reach in several roles, of which the measure names one. */
const roles = computed(() => {
  const ties = (shaping.model?.relationships ?? []).filter((each) => each.from_table === props.measure.table)
  return (shaping.model?.dimensions ?? [])
    .map((each) => ({
      dimension: each,
      roles: ties.filter((tie) => tie.to_table === each.table).map((tie) => tie.role),
    }))
    .filter((each) => each.roles.length > 1)
})
/** What fits what the column holds, first; the others with why not. */
const aggregates = computed(() => {
  const unfit = new Set<string>(
    isKey.value
      ? [
          'sum',
          'average',
          'median',
          'balance',
          'weighted_average',
          'percentile',
          'deviation',
          'variance',
          'debit',
          'credit',
        ]
      : takesColumn.value && holds.value && !isNumber.value
        ? [
            'sum',
            'average',
            'median',
            'balance',
            'weighted_average',
            'percentile',
            'deviation',
            'variance',
            'debit',
            'credit',
          ]
        : [],
  )
  return {
    fit: AGGREGATES.filter((each) => !unfit.has(each.value)),
    unfit: AGGREGATES.filter((each) => unfit.has(each.value)),
  }
})
const why = computed(() => AGGREGATES.find((each) => each.value === props.measure.aggregate)?.why ?? '')

function put(said: Partial<ModelMeasure>, formula: string | null = null): void {
  void shaping.act({ kind: 'put_measure', measure: { ...props.measure, ...said } }, formula).then((isDone) => {
    if (!isDone) form.value = fresh(props.measure)
  })
}

/** Takes the values together in another way, with what that way needs and without what it does not. */
function take(aggregate: ModelMeasure['aggregate']): void {
  const needsColumn = !['count', 'open', 'ratio', 'formula'].includes(aggregate)
  const amount = columns.value.find(
    (each) =>
      ['whole', 'decimal', 'float'].includes(each.profile?.kind ?? '') &&
      !shaping.tieOf(props.measure.table, each.name),
  )
  const expression = needsColumn
    ? (props.measure.expression ??
      (amount ? quoted(amount.name) : columns.value[0] ? quoted(columns.value[0].name) : null))
    : null
  const needsTime = ['balance', 'open', 'first', 'last'].includes(aggregate)
  const said: Partial<ModelMeasure> = {
    aggregate,
    expression,
    time: needsTime ? (props.measure.time ?? calendars.value[0]?.name ?? null) : null,
    percentile: aggregate === 'percentile' ? (props.measure.percentile ?? 90) : null,
    weight: aggregate === 'weighted_average' ? (props.measure.weight ?? (amount ? quoted(amount.name) : null)) : null,
    numerator: aggregate === 'ratio' ? (props.measure.numerator ?? others.value[0]?.name ?? null) : null,
    denominator: aggregate === 'ratio' ? (props.measure.denominator ?? others.value[1]?.name ?? null) : null,
    started: aggregate === 'open' ? (props.measure.started ?? days.value[0]?.name ?? null) : null,
    ended: aggregate === 'open' ? (props.measure.ended ?? days.value[1]?.name ?? null) : null,
    formula: null,
  }
  if (['ratio', 'formula'].includes(aggregate)) Object.assign(said, { where: [], roles: {} })
  const first = others.value[0]
  put(said, aggregate === 'formula' ? form.value.formula || (first ? `"${first.caption}"` : '0') : null)
}

async function leaveOut(): Promise<void> {
  await shaping.act({ kind: 'leave_out_measure', name: props.measure.name })
}

async function place(by: number): Promise<void> {
  const all = shaping.model!.measures
  const at = all.findIndex((each) => each.name === props.measure.name)
  const before = all[by < 0 ? at - 1 : at + 2]
  await shaping.act({ kind: 'place_measure', name: props.measure.name, before: before?.name ?? null })
}

function valueOf(event: Event): string {
  return (event.target as HTMLSelectElement).value
}
</script>

<template>
  <section :aria-label="`Measure ${measure.caption}`">
    <div class="row">
      <h2>{{ measure.caption }}</h2>
      <span class="soft">of {{ tableCaption(measure.table) }}</span>
    </div>
    <label
      ><span class="soft">is called</span
      ><input v-model="form.caption" class="field" @change="put({ caption: form.caption.trim() })"
    /></label>
    <label
      ><span class="soft">its records are</span>
      <select
        class="field"
        :value="measure.aggregate"
        aria-label="How it is taken together"
        @change="take(valueOf($event) as ModelMeasure['aggregate'])"
      >
        <option v-for="each in aggregates.fit" :key="each.value" :value="each.value">{{ each.title }}</option>
        <optgroup
          v-if="aggregates.unfit.length"
          :label="isKey ? `says nothing of what names something` : `needs numbers`"
        >
          <option v-for="each in aggregates.unfit" :key="each.value" :value="each.value">{{ each.title }}</option>
        </optgroup>
      </select>
    </label>
    <p v-if="why" class="line">
      <span /><span class="soft">{{ why }}</span>
    </p>
    <template v-if="takesColumn">
      <label
        ><span class="soft">of the column</span>
        <select
          class="field"
          :value="column ?? ''"
          aria-label="Of the column"
          @change="put({ expression: quoted(valueOf($event)) })"
        >
          <option v-if="!column" value="">worked out, below</option>
          <option v-for="each in columns" :key="each.name" :value="each.name">
            {{ each.name }} ({{ kindWords(each, shaping.model?.tables[measure.table]) }})
          </option>
        </select>
      </label>
      <label
        ><span class="soft">or worked out</span
        ><input
          v-model="form.expression"
          class="field"
          spellcheck="false"
          placeholder="quantity * price"
          @change="put({ expression: form.expression.trim() })"
      /></label>
    </template>
    <label v-if="measure.aggregate === 'weighted_average'"
      ><span class="soft">weighed by</span
      ><input v-model="form.weight" class="field" spellcheck="false" @change="put({ weight: form.weight.trim() })"
    /></label>
    <label v-if="measure.aggregate === 'percentile'"
      ><span class="soft">per cent below it</span
      ><input
        v-model.number="form.percentile"
        class="field"
        type="number"
        min="0"
        max="100"
        @change="put({ percentile: form.percentile })"
    /></label>
    <template v-if="measure.aggregate === 'ratio'">
      <label
        ><span class="soft">divides</span
        ><select class="field" :value="measure.numerator ?? ''" @change="put({ numerator: valueOf($event) })">
          <option v-for="each in others" :key="each.name" :value="each.name">{{ each.caption }}</option>
        </select></label
      >
      <label
        ><span class="soft">by</span
        ><select class="field" :value="measure.denominator ?? ''" @change="put({ denominator: valueOf($event) })">
          <option v-for="each in others" :key="each.name" :value="each.name">{{ each.caption }}</option>
        </select></label
      >
    </template>
    <label v-if="measure.aggregate === 'formula'"
      ><span class="soft">is</span>
      <textarea
        v-model="form.formula"
        class="field"
        rows="3"
        spellcheck="false"
        placeholder='"Revenue" / "Journeys"'
        @change="put({}, form.formula)"
      />
    </label>
    <p v-if="measure.aggregate === 'formula' && !form.formula" class="line">
      <span /><span class="soft">It names members, so it is written in the text.</span>
    </p>
    <label v-if="takesTime"
      ><span class="soft">over the time of</span
      ><select class="field" :value="measure.time ?? ''" @change="put({ time: valueOf($event) })">
        <option v-for="each in calendars" :key="each.name" :value="each.name">{{ each.caption }}</option>
      </select></label
    >
    <label v-if="measure.aggregate === 'balance'"
      ><span class="soft">in a period, at its</span
      ><select
        class="field"
        :value="measure.over_time"
        @change="put({ over_time: valueOf($event) as ModelMeasure['over_time'] })"
      >
        <option value="last">last day</option>
        <option value="first">first day</option>
        <option value="average">days, on average</option>
      </select></label
    >
    <template v-if="measure.aggregate === 'open'">
      <label
        ><span class="soft">began on</span
        ><select class="field" :value="measure.started ?? ''" @change="put({ started: valueOf($event) })">
          <option v-for="each in days" :key="each.name" :value="each.name">{{ each.name }}</option>
        </select></label
      >
      <label
        ><span class="soft">ended on</span
        ><select class="field" :value="measure.ended ?? ''" @change="put({ ended: valueOf($event) })">
          <option v-for="each in days" :key="each.name" :value="each.name">{{ each.name }}</option>
        </select></label
      >
    </template>
    <template v-if="!isOfOthers">
      <label v-for="each in roles" :key="each.dimension.name"
        ><span class="soft">{{ each.dimension.caption }} by</span>
        <select
          class="field"
          :value="measure.roles?.[each.dimension.name] ?? ''"
          @change="put({ roles: { ...measure.roles, [each.dimension.name]: valueOf($event) } })"
        >
          <option v-for="role in each.roles" :key="role" :value="role">{{ role.replace(/_/g, ' ') }}</option>
        </select>
      </label>
      <h3>Counts only records of</h3>
      <ConditionList
        :conditions="measure.where"
        :told="shaping.told?.measures[measure.name]"
        empty="All of them."
        @change="(where) => put({ where })"
      />
    </template>
    <h3>How it is written</h3>
    <label
      ><span class="soft">numbers as</span
      ><select v-model="form.format" class="field" @change="put({ format: form.format })">
        <option v-for="each in patterns" :key="each.value" :value="each.value">{{ each.title }}</option>
      </select></label
    >
    <label
      ><span class="soft">unit</span><input v-model="form.unit" class="field" @change="put({ unit: form.unit.trim() })"
    /></label>
    <label
      ><span class="soft">more of it is</span>
      <select
        class="field"
        :value="measure.favourable ?? ''"
        @change="put({ favourable: (valueOf($event) || null) as ModelMeasure['favourable'] })"
      >
        <option value="">neither good nor bad</option>
        <option value="more">good</option>
        <option value="less">bad</option>
      </select>
    </label>
    <label
      ><span class="soft">in the folder</span
      ><input v-model="form.folder" class="field" @change="put({ folder: form.folder.trim() })"
    /></label>
    <label
      ><span class="soft">also found as</span
      ><input
        v-model="form.synonyms"
        class="field"
        @change="
          put({
            synonyms: form.synonyms
              .split(',')
              .map((each) => each.trim())
              .filter(Boolean),
          })
        "
    /></label>
    <label
      ><span class="soft">described as</span
      ><textarea
        v-model="form.description"
        class="field"
        rows="2"
        @change="put({ description: form.description.trim() })"
      />
    </label>
    <div class="row">
      <button type="button" class="plain-button not" @click="place(-1)">Further up</button>
      <button type="button" class="plain-button not" @click="place(1)">Further down</button>
      <LeaveOut words="Leave it out…" goes="Measures that are made of it go with it." @leave="leaveOut" />
    </div>
  </section>
</template>

<style scoped src="../fields.css" />
<style scoped src="../room.css" />
