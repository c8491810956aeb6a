<script setup lang="ts">
// One row of a statement: what it is called and what it is of; how it stands, once somebody is at it.
import { mdiArrowDown, mdiArrowUp, mdiClose } from '@mdi/js'
import { computed } from 'vue'
import type { LayoutRow } from '@/api/types'
import { withPresent } from '../patterns'

const RULES = [
  { value: 'none none', title: 'no rule' },
  { value: 'single none', title: 'a rule above' },
  { value: 'none single', title: 'a rule below' },
  { value: 'single double', title: 'a rule above, a double one below' },
  { value: 'none double', title: 'a double rule below' },
  { value: 'single single', title: 'a rule above and below' },
]
const PATTERNS = [
  { value: '', title: 'as it fits' },
  { value: '#,##0', title: 'whole numbers' },
  { value: '#,##0.00', title: 'two decimals' },
  { value: '0.0 %', title: 'per cent' },
]
const props = defineProps<{ row: LayoutRow; text: string; fault: string; active: boolean }>()
const emit = defineEmits<{
  activate: []
  write: [text: string]
  change: [to: Partial<LayoutRow>]
  move: [by: number]
  take: []
  choose: []
}>()
const hasFigures = computed(() => props.row.kind === 'members' || props.row.kind === 'formula')
const rules = computed(() => `${props.row.rule_above} ${props.row.rule_below}`)
const patterns = computed(() => withPresent(PATTERNS, props.row.format ?? ''))
const hint = computed(() => (props.row.kind === 'members' ? '"Fares", 5110 to 5200' : '"Revenue" - "Costs"'))
const called = computed(() => props.row.caption || 'this row')

function setRules(value: string): void {
  const [above, below] = value.split(' ')
  emit('change', { rule_above: above as LayoutRow['rule_above'], rule_below: below as LayoutRow['rule_below'] })
}

function key(event: KeyboardEvent): void {
  const by = { ArrowUp: -1, ArrowDown: 1 }[event.key]
  if (!event.altKey || !by) return
  event.preventDefault()
  emit('move', by)
}
</script>

<template>
  <li
    data-row
    :class="[row.kind, { active, strong: row.is_strong, above: row.rule_above !== 'none' }]"
    @focusin="emit('activate')"
    @keydown="key"
  >
    <div class="line" :style="{ paddingLeft: `${8 + (row.indent ?? 0) * 14}px` }">
      <button v-if="row.kind === 'blank'" type="button" class="plain-button soft empty" @click="emit('activate')">
        a blank line
      </button>
      <input
        v-else
        :value="row.caption"
        class="caption"
        :placeholder="row.kind === 'heading' ? 'Heading' : 'Name'"
        maxlength="120"
        aria-label="Name of the row"
        @input="emit('change', { caption: ($event.target as HTMLInputElement).value })"
      />
      <input
        v-if="hasFigures"
        :value="text"
        class="text"
        :placeholder="hint"
        :aria-label="`What ${called} is of`"
        :aria-invalid="!!fault"
        spellcheck="false"
        @input="emit('write', ($event.target as HTMLInputElement).value)"
      />
    </div>
    <p v-if="fault && (active || text)" class="fault" role="status">{{ fault }}</p>
    <div v-if="active" class="tools">
      <v-btn v-if="row.kind === 'members'" size="x-small" @click="emit('choose')">Choose…</v-btn>
      <label v-if="hasFigures" title="Its numbers stand with the other sign, for formulas over it too"
        ><input type="checkbox" :checked="row.is_turned" @change="emit('change', { is_turned: !row.is_turned })" /> sign
        turned</label
      >
      <label v-if="row.kind !== 'blank'"
        ><input type="checkbox" :checked="row.is_strong" @change="emit('change', { is_strong: !row.is_strong })" />
        strong</label
      >
      <label v-if="row.kind !== 'blank'"
        >in
        <input
          class="steps"
          type="number"
          min="0"
          max="8"
          :value="row.indent"
          aria-label="Steps that it stands in"
          @change="emit('change', { indent: Number(($event.target as HTMLInputElement).value) })"
      /></label>
      <select
        v-if="row.kind !== 'blank'"
        :value="rules"
        aria-label="Rules"
        @change="setRules(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="each in RULES" :key="each.value" :value="each.value">{{ each.title }}</option>
      </select>
      <select
        v-if="hasFigures"
        :value="row.format ?? ''"
        aria-label="Written"
        @change="emit('change', { format: ($event.target as HTMLSelectElement).value || null })"
      >
        <option v-for="each in patterns" :key="each.value" :value="each.value">{{ each.title }}</option>
      </select>
      <span class="space" />
      <v-btn
        :icon="mdiArrowUp"
        size="x-small"
        aria-label="Move it up (Alt and the up arrow)"
        title="Move it up (Alt ↑)"
        @click="emit('move', -1)"
      />
      <v-btn
        :icon="mdiArrowDown"
        size="x-small"
        aria-label="Move it down (Alt and the down arrow)"
        title="Move it down (Alt ↓)"
        @click="emit('move', 1)"
      />
      <v-btn
        :icon="mdiClose"
        size="x-small"
        aria-label="Take the row out"
        title="Take the row out"
        @click="emit('take')"
      />
    </div>
  </li>
</template>

<style scoped>
li {
  padding: 2px 8px 2px 0;
  border-left: 2px solid transparent;
}

li.active {
  background: rgb(var(--v-theme-tint));
  border-left-color: rgb(var(--v-theme-secondary));
}

.line {
  display: flex;
  gap: 8px;
  align-items: baseline;
}

input,
select {
  min-width: 0;
  padding: 1px 2px;
  font: inherit;
  color: inherit;
  background: transparent;
  border: 0;
  border-bottom: 1px solid transparent;
}

.active .line input,
.line input:hover {
  border-bottom-color: rgb(var(--v-theme-rule));
}

/* What a row is of has room while somebody is at it. */
.active .line {
  flex-wrap: wrap;
}

.active .text {
  flex: 1 0 100%;
  margin-left: 2px;
}

.caption {
  flex: 4;
}

.text {
  flex: 5;
  font-family: var(--mono, monospace);
  font-size: 12px;
}

.strong .caption,
.heading .caption {
  font-weight: 600;
}

li.above .line {
  border-top: 1px solid rgb(var(--v-theme-rule));
}

.empty {
  font-style: italic;
}

.fault {
  margin: 0 0 2px 10px;
  font-size: 12px;
  color: rgb(var(--v-theme-error));
}

.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  align-items: center;
  padding: 2px 0 2px 8px;
  font-size: 12px;
  color: rgb(var(--v-theme-soft));
}

.tools select {
  max-width: 128px;
}

.tools option {
  color: #2b2030;
}

.steps {
  width: 34px;
}

.space {
  flex: 1;
}
</style>
