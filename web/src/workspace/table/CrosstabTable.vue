<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, toRef, watch } from 'vue'
import type { Shown } from '@/api/types'
import DragThing from '../DragThing.vue'
import { useDragging } from '../dragging'
import { dimensionThing, measureThing } from '../things'
import ColumnHead from './ColumnHead.vue'
import DropZones from './DropZones.vue'
import LandingWords from './LandingWords.vue'
import RowLabel from './RowLabel.vue'
import { numberWriter } from './format'
import { headerRows } from './headers'
import { HEADER_ROW_HEIGHT, INDENT, MEASURE_GAP, ROW_HEIGHT, headWidth, labelWidth, measureWidth, rowTone, stretch } from './layout'
import { useLandingGap } from './useLandingGap'
import { useWindows } from './useWindows'

const props = defineProps<{ shown: Shown }>()
const dragging = useDragging()
const windows = useWindows(toRef(props, 'shown'))
const scroller = ref<HTMLElement | null>(null)
const { width: available } = useElementSize(scroller)

const question = computed(() => props.shown.document.question)
// The grand total's row stays in view: first or last, and the body is what is between.
const totalIndex = computed(() => props.shown.window.row_total)
const isTotalFirst = computed(() => totalIndex.value === 0 && props.shown.window.row_count > 1)
const firstBodyRow = computed(() => (isTotalFirst.value ? 1 : 0))
const bodyRows = computed(() => props.shown.window.row_count - (totalIndex.value === null ? 0 : 1))
const columnCount = computed(() => props.shown.window.column_count)
const headerDepth = computed(() => Math.max(props.shown.window.header_depth, 1))
const isNested = computed(() => props.shown.window.rows.some((row) => row.indent > 0))
const writers = computed(() => props.shown.measures.map((measure) => numberWriter(measure.format)))
const gap = useLandingGap(toRef(props, 'shown'))

// Widths: the grand total is the longest number of an additive measure, so it sets the width.
const label = computed(() => Math.max(labelWidth(props.shown.window.rows), 170))
const naturalWidths = computed(() =>
  props.shown.measures.map((measure, place) => {
    const samples = [props.shown.window.total_row?.[place] ?? [], ...(props.shown.window.values[place]?.slice(0, 24) ?? [])]
    const texts = samples.flat().map((value) => writers.value[place]?.(value) ?? '')
    return measureWidth(measure, texts.reduce((longest, text) => (text.length > longest.length ? text : longest), ''))
  }),
)
const factor = computed(() => {
  const needed = naturalWidths.value.reduce((sum, width) => sum + width, 0)
  const natural = Math.max(needed, headWidth(props.shown.window.columns))
  return (natural / Math.max(needed, 1)) * stretch(natural * columnCount.value, available.value - label.value - 16)
})
const measureWidths = computed(() => naturalWidths.value.map((width) => Math.round(width * factor.value)))
const measureLefts = computed(() => {
  let left = 0
  return measureWidths.value.map((width, place) => {
    if (gap.measureAt.value === place) left += MEASURE_GAP
    const here = left
    left += width
    return here
  })
})
const columnWidth = computed(() => {
  const widths = measureWidths.value.reduce((sum, width) => sum + width, 0)
  return Math.max(widths + (gap.measureAt.value === null ? 0 : MEASURE_GAP), props.shown.measures.length ? 0 : 110)
})
const gapLeft = computed(() => {
  const at = gap.measureAt.value ?? 0
  return measureWidths.value.slice(0, at).reduce((sum, width) => sum + width, 0)
})

const rowVirtualizer = useVirtualizer(
  computed(() => ({
    count: bodyRows.value,
    getScrollElement: () => scroller.value,
    estimateSize: () => ROW_HEIGHT,
    overscan: 6,
  })),
)
const columnVirtualizer = useVirtualizer(
  computed(() => ({
    count: columnCount.value,
    horizontal: true,
    getScrollElement: () => scroller.value,
    estimateSize: () => columnWidth.value,
    overscan: 1,
  })),
)
watch(columnWidth, () => columnVirtualizer.value.measure())

const rows = computed(() => rowVirtualizer.value.getVirtualItems().map((item) => item.index + firstBodyRow.value))
const columns = computed(() => columnVirtualizer.value.getVirtualItems().map((item) => item.index))
const firstRow = computed(() => rows.value[0] ?? 0)
watch(
  [rows, columns, () => props.shown],
  () => windows.ensure(firstRow.value, rows.value.at(-1) ?? 0, columns.value[0] ?? 0, columns.value.at(-1) ?? 0),
  { immediate: true },
)

const placedColumns = computed(() =>
  columns.value.flatMap((index) => {
    const header = windows.columnHeader(index, firstRow.value)
    return header ? [{ index, header }] : []
  }),
)
const heads = computed(() => headerRows(placedColumns.value, headerDepth.value))
const totalColumns = computed(() => new Set(placedColumns.value.filter((each) => !each.header.members.length).map((each) => each.index)))
const headerHeight = computed(() => (headerDepth.value + 1 + gap.headerLines.value) * HEADER_ROW_HEIGHT)
const sheetWidth = computed(() => label.value + columnCount.value * columnWidth.value)
const bodyHeight = computed(() => bodyRows.value * ROW_HEIGHT + gap.height.value)
const totalRow = computed(() => ({ caption: props.shown.window.total_caption, indent: 0, depth: 0, place: 0, above: [], member: null, is_heading: false }))
const rowPhrases = computed(() => props.shown.sentence.filter((each) => each.kind === 'dimension' && each.axis === 'rows'))
const columnPhrases = computed(() => props.shown.sentence.filter((each) => each.kind === 'dimension' && each.axis === 'columns'))

// Where every column's cells stand, worked out once for all rows.
const slots = computed(() =>
  columns.value.flatMap((column) =>
    measureWidths.value.map((width, place) => ({
      key: column * props.shown.measures.length + place,
      column,
      place,
      look: totalColumns.value.has(column) ? 'cell tinted' : 'cell',
      style: `left: ${label.value + column * columnWidth.value + (measureLefts.value[place] ?? 0)}px; width: ${width}px`,
    })),
  ),
)

function top(index: number): string {
  const place = index - firstBodyRow.value
  const moved = gap.rowAt.value !== null && place >= gap.rowAt.value ? gap.height.value : 0
  return `translateY(${place * ROW_HEIGHT + moved}px)`
}

function left(index: number): string {
  return `${label.value + index * columnWidth.value}px`
}

function write(measure: number, row: number, column: number): string {
  return writers.value[measure]?.(windows.value(measure, row, column)) ?? ''
}

function writeTotal(measure: number, column: number): string {
  return writers.value[measure]?.(windows.total(measure, column, firstRow.value)) ?? ''
}
</script>

<template>
  <div class="frame" :style="{ '--label-width': `${label}px`, '--header-height': `${headerHeight}px`, '--row-height': `${ROW_HEIGHT}px`, '--header-row-height': `${HEADER_ROW_HEIGHT}px` }">
    <div ref="scroller" class="scroller" role="grid" :aria-rowcount="bodyRows + 1" :aria-colcount="columnCount" aria-label="Crosstab" tabindex="0">
      <div class="sheet" :class="{ 'total-first': isTotalFirst }" :style="{ width: `${sheetWidth}px` }">
        <div class="header" :style="{ height: `${headerHeight}px` }">
          <div class="corner">
            <span class="axis-name columns-name">
              <DragThing v-for="phrase in columnPhrases" :key="phrase.text" :thing="dimensionThing(phrase.dimension!, phrase.hierarchy!)">{{ phrase.text }}</DragThing>
            </span>
            <span class="axis-name rows-name">
              <DragThing v-for="phrase in rowPhrases" :key="phrase.text" :thing="dimensionThing(phrase.dimension!, phrase.hierarchy!)">{{ phrase.text }}</DragThing>
              <span v-if="gap.rowHeader.value" class="coming">{{ gap.rowHeader.value }}</span>
            </span>
          </div>
          <div v-if="gap.headerLines.value" class="header-gap" :style="{ top: `${gap.headerAt.value * HEADER_ROW_HEIGHT}px` }">
            <span v-for="caption in gap.headerMembers.value" :key="caption" class="member" :style="{ width: `${Math.min(columnWidth, 160)}px` }">{{ caption }}</span>
            <LandingWords v-if="dragging.over" :words="dragging.over.words" />
          </div>
          <template v-for="(cells, depth) in heads" :key="depth">
            <div
              v-for="cell in cells"
              :key="cell.start"
              class="head-cell"
              :class="[{ tinted: totalColumns.has(cell.start), wide: cell.span > 1 }, cell.kind]"
              :style="{ left: left(cell.start), width: `${cell.span * columnWidth}px`, top: `${(depth + (gap.headerAt.value <= depth ? gap.headerLines.value : 0)) * HEADER_ROW_HEIGHT}px` }"
              role="columnheader"
            >
              <ColumnHead :cell="cell" />
            </div>
          </template>
          <template v-for="column in columns" :key="column">
            <div v-if="gap.measureAt.value !== null" class="measure-gap" :style="{ left: `calc(${left(column)} + ${gapLeft}px)`, width: `${MEASURE_GAP}px` }">{{ gap.measureHeader.value }}</div>
            <div
              v-for="(measure, place) in shown.measures"
              :key="measure.name"
              class="measure-head"
              :class="{ tinted: totalColumns.has(column) }"
              :style="{ left: `calc(${left(column)} + ${measureLefts[place]}px)`, width: `${measureWidths[place]}px` }"
              role="columnheader"
              :title="measure.description"
            >
              <DragThing class="measure-caption" :thing="measureThing(measure.placed.measure, measure.placed.aggregate, measure.placed.percentile)">{{ measure.caption }}</DragThing>
            </div>
          </template>
        </div>
        <div class="body" :style="{ height: `${bodyHeight}px` }">
          <div v-if="gap.rowAt.value !== null" class="row-gap" :style="{ top: `${gap.rowAt.value * ROW_HEIGHT}px`, height: `${gap.height.value}px` }">
            <LandingWords v-if="dragging.over" class="row-words" :words="dragging.over.words" />
            <span v-for="caption in gap.rowMembers.value" :key="caption" class="member" :style="{ paddingLeft: `${24 + gap.indent.value * INDENT}px` }">{{ caption }}</span>
          </div>
          <div
            v-for="row in rows"
            :key="row"
            class="row"
            :class="[rowTone(windows.rowHeader(row, columns[0]), isNested)]"
            :style="{ transform: top(row) }"
            role="row"
            :aria-rowindex="row + 1"
            :aria-level="(windows.rowHeader(row, columns[0])?.indent ?? 0) + 1"
          >
            <div class="label-cell" role="rowheader"><RowLabel v-if="windows.rowHeader(row, columns[0])" :row="windows.rowHeader(row, columns[0])!" /></div>
            <div v-for="slot in slots" :key="slot.key" :class="slot.look" :style="slot.style" role="gridcell">{{ write(slot.place, row, slot.column) }}</div>
          </div>
        </div>
        <div v-if="totalIndex !== null" class="row grand" :class="{ alone: bodyRows === 0, first: isTotalFirst }" role="row">
          <div class="label-cell" role="rowheader"><RowLabel :row="totalRow" /></div>
          <div v-for="slot in slots" :key="slot.key" :class="slot.look" :style="slot.style" role="gridcell">{{ writeTotal(slot.place, slot.column) }}</div>
        </div>
      </div>
    </div>
    <DropZones v-if="dragging.isDragging" :header-height="headerHeight" :label-width="label" :rows-fill-sheet="!question?.rows?.length" />
  </div>
</template>

<style scoped src="./table.css" />
