<script setup lang="ts">
import { mdiDownload } from '@mdi/js'
import type { ChartData, ChartForm } from '@/api/types'

defineProps<{ data: ChartData; multiples: boolean; canSplit: boolean }>()
const emit = defineEmits<{ form: [form: ChartForm]; turn: []; split: []; join: []; svg: []; png: [] }>()
const WORDS: Record<ChartForm, string> = {
  bars: 'bars',
  stacked: 'stacked',
  shares: 'to 100 %',
  lines: 'lines',
  areas: 'areas',
  points: 'points',
  ring: 'ring',
  heat: 'heat table',
}
</script>

<template>
  <div class="forms">
    <span class="small-caps">Drawn as</span>
    <button
      v-for="form in data.forms"
      :key="form"
      type="button"
      class="plain-button form"
      :aria-pressed="form === data.form"
      :title="form === data.forms[0] ? 'What fits best here' : undefined"
      @click="emit('form', form)"
    >
      {{ WORDS[form] }}
    </button>
    <span class="space" />
    <button
      v-if="data.series.length > 1 || data.categories.length > 1"
      type="button"
      class="plain-button form"
      title="What runs along the chart becomes its series, and its series run along"
      @click="emit('turn')"
    >
      other way round
    </button>
    <button
      v-if="typeof data.one_scale === 'boolean'"
      type="button"
      class="plain-button form"
      :aria-pressed="data.one_scale"
      title="Measures of one unit beside each other, or each with a scale of its own"
      @click="emit('join')"
    >
      on one scale
    </button>
    <button
      v-if="canSplit"
      type="button"
      class="plain-button form"
      :aria-pressed="multiples"
      title="A small chart for each outermost member"
      @click="emit('split')"
    >
      small charts
    </button>
    <v-menu>
      <template #activator="{ props: opener }"
        ><v-btn
          v-bind="opener"
          :icon="mdiDownload"
          size="24"
          aria-label="Take the chart away"
          title="Take the chart away"
      /></template>
      <v-list class="slip-list" role="menu">
        <v-list-item role="menuitem" title="As a picture (PNG)" @click="emit('png')" />
        <v-list-item role="menuitem" title="As a drawing (SVG)" @click="emit('svg')" />
      </v-list>
    </v-menu>
  </div>
</template>

<style scoped>
.forms {
  display: flex;
  flex: none;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: center;
  padding: 5px 12px 3px 14px;
}

.form {
  padding: 0 1px;
  color: rgb(var(--v-theme-soft));
  border-bottom: 2px solid transparent;
}

.form:hover {
  color: rgb(var(--v-theme-on-surface));
}

.form[aria-pressed='true'] {
  font-weight: 600;
  color: rgb(var(--v-theme-on-surface));
  border-bottom-color: rgb(var(--v-theme-secondary));
}

.space {
  flex: 1;
}
</style>
