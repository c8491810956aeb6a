<script setup lang="ts">
// What the model is, in one sentence: the facts that are counted, by what they can be seen.
import { computed } from 'vue'
import { useShaping } from './shaping'
import { factsOf, tableCaption } from './words'

const emit = defineEmits<{ go: [room: string] }>()
const shaping = useShaping()
const MOST = 7

const facts = computed(() => (shaping.model ? factsOf(shaping.model) : []))
const dimensions = computed(() => shaping.model?.dimensions ?? [])
const shownFacts = computed(() => facts.value.slice(0, MOST))
const shownDimensions = computed(() => dimensions.value.slice(0, MOST))
const assumed = computed(() => shaping.model?.assumed ?? [])
const unsure = computed(() => assumed.value.filter((each) => each.is_unsure).length)

/** Whether "and" stands behind a phrase: before the last, where no more are only counted. */
function isLastButOne(at: number, count: number, all: number): boolean {
  return at === count - 2 && all === count
}

function comma(at: number, count: number, all: number): string {
  return at === count - 1 || isLastButOne(at, count, all) ? '' : ','
}

function and(at: number, count: number, all: number): string {
  return at === count - 1 ? '' : isLastButOne(at, count, all) ? ' and ' : ' '
}

function lookAt(table: string): void {
  shaping.choose({ kind: 'table', table })
  emit('go', 'plan')
}

function open(name: string): void {
  shaping.choose({ kind: 'dimension', name })
  emit('go', 'dimensions')
}
</script>

<template>
  <section aria-label="What the model is">
    <h1 class="sentence">
      <template v-for="(each, at) in shownFacts" :key="each"
        ><span class="whole"
          ><button type="button" class="plain-button phrase strong" @click="lookAt(each)">
            {{ tableCaption(each) }}</button
          ><i>{{ comma(at, shownFacts.length, facts.length) }}</i></span
        ><i>{{ and(at, shownFacts.length, facts.length) }}</i></template
      >
      <i v-if="facts.length > MOST"> and {{ facts.length - MOST }} more</i>
      <i v-if="!facts.length">nothing is counted yet</i>
      <i> by </i>
      <template v-for="(each, at) in shownDimensions" :key="each.name"
        ><span class="whole"
          ><button type="button" class="plain-button phrase" @click="open(each.name)">{{ each.caption }}</button
          ><i>{{ comma(at, shownDimensions.length, dimensions.length) }}</i></span
        ><i>{{ and(at, shownDimensions.length, dimensions.length) }}</i></template
      >
      <i v-if="dimensions.length > MOST"> and {{ dimensions.length - MOST }} more</i>
      <button
        v-if="assumed.length"
        type="button"
        class="plain-button assumed"
        :title="unsure ? `${unsure} may be meant otherwise` : 'Each with what speaks for it'"
        @click="(shaping.choose(null), emit('go', 'plan'))"
      >
        {{ assumed.length === 1 ? 'one thing is' : `${assumed.length} things are` }} taken to be so
      </button>
    </h1>
  </section>
</template>

<style scoped>
.sentence {
  margin: 0;
  padding: 10px 18px 12px;
  overflow-wrap: anywhere;
  font: 400 21px/31px var(--serif);
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgb(var(--v-theme-rule));
}

.phrase {
  border-bottom: 1px solid rgb(var(--v-theme-rule));
}

.phrase:hover {
  border-bottom-color: rgb(var(--v-theme-secondary));
}

.whole {
  white-space: nowrap;
}

.strong {
  font-weight: 600;
}

i {
  color: rgb(var(--v-theme-soft));
}

.assumed {
  margin-left: 12px;
  font: 12px/18px var(--sans);
  color: rgb(var(--v-theme-soft));
  border-bottom: 1px dotted rgb(var(--v-theme-saffron));
}
</style>
