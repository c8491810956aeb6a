<script setup lang="ts">
// One row of the table. All that it is given stays the same while it is in sight, so that scrolling draws only new rows.
import { computed } from 'vue'
import type { RowHeader, ShownMeasure } from '@/api/types'
import RowLabel from './RowLabel.vue'
import RowLevels from './RowLevels.vue'
import type { LevelColumn } from './levels'
import { SIGNS, type CellMark } from './marks'
import { HEADER, cellId } from './useActiveCell'

/** Where a column's cells stand, the same for all rows. */
export interface Slot {
  key: number
  column: number
  look: string
  style: string
}

const props = defineProps<{
  row: number
  header: RowHeader | undefined
  measure: ShownMeasure | undefined
  slots: readonly Slot[]
  text: (row: number, column: number) => string
  look?: string
  top?: string
  /** Which row of the whole grid it is, for those who hear it. */
  line: number
  picked?: boolean
  /** The column at which the keyboard is, where it is in this row and shown here. */
  active?: number | null
  /** How cells are marked, where any are. */
  mark?: (row: number, column: number) => CellMark | null
  /** Where its label stands in columns: those, and the row above it in sight. */
  levels?: readonly LevelColumn[]
  previous?: RowHeader
}>()
const marked = computed(() =>
  props.slots.map((slot) => ({ slot, found: props.mark?.(props.row, slot.column) ?? null })),
)
const emit = defineEmits<{ pick: [event: MouseEvent, row: number, header: RowHeader] }>()
</script>

<template>
  <div class="row" :class="look" :style="top ? { transform: top } : undefined" role="row" :aria-rowindex="line">
    <div
      :id="cellId(row, HEADER)"
      class="label-cell"
      :class="{ active: active === HEADER }"
      role="rowheader"
      :aria-expanded="header?.member?.can_open ? header.member.is_open : undefined"
      :aria-selected="picked"
    >
      <RowLevels
        v-if="header && levels"
        :row="header"
        :previous="previous"
        :columns="levels"
        :measure="measure"
        :picked="picked"
        @pick="emit('pick', $event, row, header)"
      />
      <RowLabel
        v-else-if="header"
        :row="header"
        :measure="measure"
        :picked="picked"
        @pick="emit('pick', $event, row, header)"
      />
    </div>
    <template v-if="!mark">
      <div
        v-for="slot in slots"
        :id="cellId(row, slot.column)"
        :key="slot.key"
        :class="[slot.look, { active: active === slot.column }]"
        :style="slot.style"
        role="gridcell"
        :aria-colindex="slot.column + 2"
      >
        {{ text(row, slot.column) }}
      </div>
    </template>
    <template v-else>
      <div
        v-for="{ slot, found } in marked"
        :id="cellId(row, slot.column)"
        :key="slot.key"
        :class="[slot.look, found?.meaning, { said: found?.isSaid }, { active: active === slot.column }]"
        :style="[slot.style, found?.style]"
        role="gridcell"
        :aria-description="found?.isSaid ? 'commented' : undefined"
        :aria-colindex="slot.column + 2"
      >
        <span
          v-if="found?.sign"
          class="sign"
          :aria-label="found.meaning ?? (found.sign === '▲' ? 'more' : 'less')"
          role="img"
          >{{ found.sign }}</span><span
          v-else-if="found?.meaning"
          class="sign"
          :aria-label="found.meaning"
          role="img"
          >{{ SIGNS[found.meaning] }}</span
        >{{ text(row, slot.column) }}
      </div>
    </template>
  </div>
</template>

<style scoped src="./row.css" />
