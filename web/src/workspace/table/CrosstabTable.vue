<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, ref, toRef, watch } from 'vue'
import type { RowHeader, Shown } from '@/api/types'
import { later } from '@/shell/later'
import { useDragging } from '../dragging'
import { useMaking } from '../making/making'
import { useWorkspace } from '../store'
import { useThingMenu } from '../thingMenu'
import ColumnHead from './ColumnHead.vue'
import CornerNames from './CornerNames.vue'
import DropZones from './DropZones.vue'
import LandingWords from './LandingWords.vue'
import LegendLine from './LegendLine.vue'
import MeasureHead from './MeasureHead.vue'
import SectionPager from './SectionPager.vue'
import TableRow from './TableRow.vue'
import WidthEdge from './WidthEdge.vue'
import { headerRows } from './headers'
import { HEADER_ROW_HEIGHT, INDENT, MEASURE_GAP, rowTone } from './layout'
import { useSaying } from '../keeping/saying'
import { HEADER, cellId, useActiveCell } from './useActiveCell'
import { useBlock } from './useBlock'
import { useSelection } from './selection'
import { useCellTexts } from './useCellTexts'
import { useInSight } from './useInSight'
import { useLandingGap } from './useLandingGap'
import { usePages } from './usePages'
import { useTableKeys } from './useTableKeys'
import { useTableShape } from './useTableShape'
import { useWidths } from './useWidths'
import { useWindows } from './useWindows'

const JumpSlip = later(() => import('./JumpSlip.vue'))
const props = defineProps<{ shown: Shown }>()
const workspace = useWorkspace()
const making = useMaking()
const saying = useSaying()
const menu = useThingMenu()
const dragging = useDragging()
const selection = useSelection()
const scroller = ref<HTMLElement | null>(null)
const { width: available, height: inSight } = useElementSize(scroller)
const { drawn, begin: drawEdge } = useWidths()
const shape = useTableShape(toRef(props, 'shown'), available, drawn)
const {
  answered,
  window: first,
  measures,
  totals,
  totalCount,
  isTotalFirst,
  firstBodyRow,
  bodyRows,
  hasMeasureRow,
  isInside,
  perGroup,
  label,
  levels,
  rowHeight,
  headerDepth,
} = shape
const windows = useWindows(answered, () => props.shown.document.dress?.numbers ?? [])
const question = computed(() => props.shown.document.question)
const dress = computed(() => props.shown.document.dress)
const isNested = computed(() => first.value.rows.some((row) => row.indent > 0))
const gap = useLandingGap(toRef(props, 'shown'))
const jumping = ref<string | null>(null)

const pages = usePages(shape, scroller)

const gapPlace = computed(() => (isInside.value ? gap.measureAt.value : null))
const lefts = computed(() => {
  let left = 0
  return shape.widths.value.map((width, place) => {
    if (gapPlace.value === place) left += MEASURE_GAP
    const here = left
    left += width
    return here
  })
})
const groupWidth = computed(
  () => shape.widths.value.reduce((sum, width) => sum + width, 0) + (gapPlace.value === null ? 0 : MEASURE_GAP),
)
const gapLeft = computed(() => shape.widths.value.slice(0, gapPlace.value ?? 0).reduce((sum, width) => sum + width, 0))

const { rows, groups, pool, rowsAsDrawn, firstColumn, lastColumn, firstSeen, bringRow, bringGroup } = useInSight(
  shape,
  pages,
  { scroller, inSight, groupWidth, headerHeight: () => headerHeight.value },
)
watch(
  [rows, groups, answered],
  () => windows.ensure(rows.value[0] ?? 0, rows.value.at(-1) ?? 0, firstColumn.value, lastColumn.value),
  { immediate: true },
)

const placedColumns = computed(() =>
  groups.value.flatMap((index) => {
    const header = windows.columnHeader(index * perGroup.value)
    return header ? [{ index, header }] : []
  }),
)
const captions = computed(() => measures.value.map((each) => each.caption))
const heads = computed(() =>
  headerRows(placedColumns.value, {
    outer: first.value.outer_depth,
    inner: first.value.inner_depth,
    measures: hasMeasureRow.value && !isInside.value ? captions.value : null,
  }),
)
const headLines = computed(() => heads.value.length + (isInside.value ? 1 : 0))
const headerHeight = computed(
  () => (Math.max(headLines.value, headerDepth.value, 2) + gap.headerLines.value) * HEADER_ROW_HEIGHT,
)
// The rows in sight, each looked up once.
const shownRows = computed(() =>
  rowsAsDrawn.value.map((row) => {
    const header = windows.rowHeader(row, firstColumn.value)
    const look = `${rowTone(header, isNested.value)}${header?.is_heading ? ' heading' : ''}${row % 2 ? ' odd' : ''}`
    const previous =
      levels.value && row > Math.max(firstSeen.value, firstBodyRow.value)
        ? windows.rowHeader(row - 1, firstColumn.value)
        : undefined
    return {
      row,
      header,
      previous,
      look,
      measure: measures.value[header?.measure ?? -1],
      isPicked: selection.isSelected('rows', header?.member),
    }
  }),
)
/** Where the cell stands that the keyboard is at: drawn over the body, so that no cell has to know. */
const mark = computed(() => {
  const { row, column } = cells.active.value
  if (!cells.isShown.value || row < firstBodyRow.value || row >= firstBodyRow.value + bodyRows.value) return null
  const slot = slots.value.find((each) => each.column === column)
  return slot ? `${slot.style}; transform: ${top(row)}` : null
})
const totalColumns = computed(
  () => new Set(placedColumns.value.filter((each) => !each.header.members.length).map((each) => each.index)),
)
const sheetWidth = computed(() => label.value + pages.groupCount.value * groupWidth.value)
const bodyHeight = computed(() => bodyRows.value * rowHeight.value + gap.height.value)

/** What the first row in sight stands in, kept in view while its headers are scrolled away. */
const pathAbove = computed(() =>
  firstSeen.value > firstBodyRow.value ? (windows.rowHeader(firstSeen.value, firstColumn.value)?.above ?? []) : [],
)

// Where every column's cells stand, worked out once for all rows.
const slots = computed(() =>
  groups.value
    .flatMap((group) =>
      shape.widths.value.map((width, place) => ({
        key: group * perGroup.value + place,
        column: group * perGroup.value + place,
        place,
        look: totalColumns.value.has(group) ? 'cell tinted' : 'cell',
        style: `left: ${leftOf(group) + (lefts.value[place] ?? 0)}px; width: ${width}px`,
      })),
    )
    .filter((slot) => slot.column < first.value.column_count),
)

const grid = computed(() => ({
  rowCount: first.value.row_count,
  columnCount: first.value.column_count,
  headLines: headLines.value,
  endsInMeasures: isInside.value,
  pageRows: Math.max(1, Math.floor((inSight.value - headerHeight.value) / rowHeight.value) - 2),
}))
const cells = useActiveCell(grid, ({ row, column }) => {
  const inBody = row - firstBodyRow.value
  if (row >= 0 && inBody >= 0 && inBody < bodyRows.value) bringRow(inBody)
  if (column === HEADER) return
  const group = Math.floor(column / perGroup.value)
  pages.reach(group)
  void nextTick(() => bringGroup(group))
})

function top(index: number): string {
  const place = index - firstBodyRow.value
  const moved = gap.rowAt.value !== null && place >= gap.rowAt.value ? gap.height.value : 0
  return `translateY(${place * rowHeight.value + moved}px)`
}

function leftOf(group: number): number {
  return label.value + (group - pages.firstGroup.value) * groupWidth.value
}

function left(group: number): string {
  return `${leftOf(group)}px`
}

const texts = useCellTexts(shape, windows, firstColumn)
const { rowAt, write, writeTotal, textAt, hasMarks, markAt, totalMarkAt } = texts

/** The column at which the keyboard is, where it is in a row of the totals. */
function activeIn(row: number): number | null {
  return [HEADER, ...slots.value.map((slot) => slot.column)].find((column) => isAt(row, column)) ?? null
}

/** Does something with the cell that an event is in, if it is in one. */
function atCell(event: MouseEvent, act: (event: MouseEvent, row: number, column: number) => void): void {
  const id = (event.target as HTMLElement).closest('[role=gridcell]')?.id
  const [row, column] = (id?.match(/^cell-(\d+)-(\d+)$/) ?? []).slice(1).map(Number)
  if (row !== undefined && column !== undefined) act(event, row, column)
}

/** Where the pointer rests on a number that is written shorter, all its digits are told. */
function showExact(event: MouseEvent, row: number, column: number): void {
  const exact = texts.exactAt(row, column)
  const cell = (event.target as HTMLElement).closest<HTMLElement>('[role=gridcell]')
  if (cell && exact !== undefined) cell.title = exact
}

// While a measure is made, it is looked at where the table is.
watch(cells.active, ({ row, column }) => {
  if (making.isOpen && row >= 0 && column >= 0) menu.cell = { row, column }
})

const block = useBlock({
  cells,
  left: (column) => leftOf(Math.floor(column / perGroup.value)) + (lefts.value[column % perGroup.value] ?? 0),
  right: (column) =>
    leftOf(Math.floor(column / perGroup.value)) +
    (lefts.value[column % perGroup.value] ?? 0) +
    (shape.widths.value[column % perGroup.value] ?? 0),
  rowHeight,
  body: computed(() => ({ start: firstBodyRow.value, count: bodyRows.value })),
  totals: computed(() => ({ start: totals.value?.start ?? 0, count: totalCount.value })),
})

function clickCell(event: MouseEvent, row: number, column: number): void {
  block.click({ row, column }, event.shiftKey)
}

function pressCell(event: MouseEvent): void {
  block.press(null)
  if (event.button === 0) atCell(event, (_, row, column) => block.press({ row, column }))
}

/** The pointer goes over cells: held down it makes a block of them, else it asks what they are exactly. */
function passCell(event: MouseEvent, row: number, column: number): void {
  const isHeld = event.buttons === 1 && !dragging.isDragging
  if (!isHeld || !block.pass({ row, column })) showExact(event, row, column)
}

const { activeId, openAt, pick, key, spoken, isAt } = useTableKeys(
  { cells, heads, headLines, perGroup, measures, rowAt, columnAt: (column) => windows.columnHeader(column), textAt },
  (begun) => (jumping.value = begun),
)

function pickRow(event: MouseEvent, row: number, header: RowHeader): void {
  pick(event, 'rows', row, header.member, header.members)
}

watch(
  () => saying.wanted,
  (cell) => {
    if (!cell) return
    cells.moveTo(cell)
    cells.isShown.value = true // beside an open slip too, which keeps the focus
    scroller.value?.focus()
    saying.wanted = null
  },
)

function endJump(): void {
  jumping.value = null
  scroller.value?.focus()
}

function land(axis: 'rows' | 'columns', line: number): void {
  jumping.value = null
  cells.moveTo(axis === 'rows' ? { row: line, column: HEADER } : { row: -headLines.value, column: line })
  scroller.value?.focus()
}

function headTop(depth: number): string {
  return `${(depth + (gap.headerLines.value && gap.headerAt.value <= depth ? gap.headerLines.value : 0)) * HEADER_ROW_HEIGHT}px`
}
</script>

<template>
  <div
    class="frame"
    :class="[{ behind: workspace.isBehind }, `look-${dress?.look ?? 'ruled'}`, `frozen-${dress?.frozen ?? 'both'}`]"
    :style="{
      '--label-width': `${label}px`,
      '--header-height': `${headerHeight}px`,
      '--row-height': `${rowHeight}px`,
      '--header-row-height': `${HEADER_ROW_HEIGHT}px`,
      '--pinned-height': ['both', 'columns'].includes(dress?.frozen ?? 'both') ? `${headerHeight}px` : '0px',
    }"
  >
    <div
      ref="scroller"
      class="scroller"
      role="grid"
      :aria-rowcount="first.row_count + headLines"
      :aria-colcount="first.column_count + 1"
      aria-label="Crosstab"
      aria-multiselectable="true"
      aria-describedby="table-keys"
      :aria-activedescendant="activeId"
      tabindex="0"
      @keydown="key"
      @focus="cells.isShown.value = true"
      @blur="cells.isShown.value = false"
    >
      <div
        class="sheet"
        role="presentation"
        :class="{ 'total-first': isTotalFirst }"
        :style="{ width: `${sheetWidth}px` }"
      >
        <div class="header" role="rowgroup" :style="{ height: `${headerHeight}px` }">
          <div role="row" class="corner-row">
            <CornerNames
              :shown="shown"
              :coming="gap.rowHeader.value"
              :has-measure-row="hasMeasureRow"
              :levels="levels"
              @edge="drawEdge($event, null, label)"
            />
          </div>
          <div
            v-if="gap.headerLines.value"
            class="header-gap"
            role="presentation"
            :style="{ top: `${gap.headerAt.value * HEADER_ROW_HEIGHT}px` }"
          >
            <span
              v-for="caption in gap.headerMembers.value"
              :key="caption"
              class="member"
              :style="{ width: `${Math.min(groupWidth, 160)}px` }"
              >{{ caption }}</span
            >
            <LandingWords v-if="dragging.over" :words="dragging.over.words" />
          </div>
          <div v-for="(line, depth) in heads" :key="depth" role="row" class="head-row" :aria-rowindex="depth + 1">
            <div
              v-for="cell in line"
              :id="cellId(depth - headLines, cell.start * perGroup)"
              :key="cell.start"
              class="head-cell"
              :class="[
                {
                  tinted: totalColumns.has(cell.start),
                  wide: cell.span > 1 || perGroup > 1,
                  last: depth === heads.length - 1,
                  active: isAt(depth - headLines, cell.start * perGroup, (cell.start + cell.span) * perGroup - 1),
                },
                cell.kind,
              ]"
              :style="{ left: left(cell.start), width: `${cell.span * groupWidth}px`, top: headTop(depth) }"
              role="columnheader"
              :aria-colindex="cell.start * perGroup + 2"
              :aria-colspan="cell.span * perGroup"
              :aria-selected="selection.isSelected('columns', cell.member)"
            >
              <MeasureHead
                v-if="cell.kind === 'measure' && measures[cell.measure ?? 0]"
                :measure="measures[cell.measure ?? 0]!"
              />
              <ColumnHead
                v-else
                :cell="cell"
                :picked="selection.isSelected('columns', cell.member)"
                @pick="pick($event, 'columns', cell.start * perGroup, cell.member, cell.chain)"
              />
              <WidthEdge
                v-if="!isInside && depth === heads.length - 1 && measures[0]"
                what="the columns"
                @draw="drawEdge($event, measures[0]!, shape.widths.value[0] ?? 0)"
              />
            </div>
          </div>
          <div v-if="isInside" role="row" class="head-row" :aria-rowindex="headLines">
            <template v-for="group in groups" :key="group">
              <div
                v-if="gapPlace !== null"
                class="measure-gap"
                role="presentation"
                :style="{ left: `calc(${left(group)} + ${gapLeft}px)`, width: `${MEASURE_GAP}px` }"
              >
                {{ gap.measureHeader.value }}
              </div>
              <div
                v-for="(measure, place) in measures"
                :id="cellId(HEADER, group * perGroup + place)"
                :key="measure.name"
                class="measure-head"
                :class="{ tinted: totalColumns.has(group), active: isAt(HEADER, group * perGroup + place) }"
                :style="{ left: `calc(${left(group)} + ${lefts[place]}px)`, width: `${shape.widths.value[place]}px` }"
                role="columnheader"
                :aria-colindex="group * perGroup + place + 2"
                :title="measure.description"
              >
                <MeasureHead :measure="measure" />
                <WidthEdge what="the columns" @draw="drawEdge($event, measure, shape.widths.value[place] ?? 0)" />
              </div>
            </template>
          </div>
        </div>
        <div v-if="pathAbove.length" class="path-above" role="presentation">{{ pathAbove.join(' › ') }}</div>
        <div
          class="body"
          role="rowgroup"
          :style="{ height: `${bodyHeight}px` }"
          @mousedown="pressCell"
          @click="atCell($event, clickCell)"
          @mouseover="atCell($event, passCell)"
          @contextmenu="atCell($event, openAt)"
        >
          <div
            v-if="gap.rowAt.value !== null"
            class="row-gap"
            role="presentation"
            :style="{ top: `${gap.rowAt.value * rowHeight}px`, height: `${gap.height.value}px` }"
          >
            <LandingWords v-if="dragging.over" class="row-words" :words="dragging.over.words" />
            <span
              v-for="each in gap.rowMembers.value"
              :key="`${each.indent} ${each.caption}`"
              class="member"
              :style="{ paddingLeft: `${24 + each.indent * INDENT}px` }"
              >{{ each.caption }}</span
            >
          </div>
          <TableRow
            v-for="each in shownRows"
            :key="each.row % pool"
            :row="each.row"
            :header="each.header"
            :measure="each.measure"
            :slots="slots"
            :text="write"
            :look="each.look"
            :top="top(each.row)"
            :line="each.row + headLines + 1"
            :picked="each.isPicked"
            :active="isAt(each.row, HEADER) ? HEADER : null"
            :mark="hasMarks ? markAt : undefined"
            :levels="levels"
            :previous="each.previous"
            @pick="pickRow"
          />
          <div v-if="mark" class="mark" role="presentation" :style="mark" />
          <div v-if="block.inBody.value" class="block" role="presentation" :style="block.inBody.value" />
        </div>
        <div
          v-if="totals"
          class="totals"
          role="rowgroup"
          :class="{ alone: bodyRows === 0, first: isTotalFirst }"
          @mousedown="pressCell"
          @click="atCell($event, clickCell)"
          @mouseover="atCell($event, passCell)"
          @contextmenu="atCell($event, openAt)"
        >
          <TableRow
            v-for="(total, line) in totals.rows"
            :key="line"
            :row="totals.start + line"
            :header="total"
            :measure="measures[total.measure ?? -1]"
            :slots="slots"
            :text="writeTotal"
            look="total-row"
            :mark="hasMarks ? totalMarkAt : undefined"
            :levels="levels"
            :line="totals.start + line + headLines + 1"
            :active="activeIn(totals.start + line)"
          />
          <div v-if="block.inTotals.value" class="block" role="presentation" :style="block.inTotals.value" />
        </div>
      </div>
    </div>
    <SectionPager
      v-if="sheetWidth > available || pages.page.value || pages.opensFirst.value"
      :handle="answered.handle"
      :shown="pages.page.value && pages.page.value.start * perGroup"
      :opens="pages.opensFirst.value"
      :can-part="isInside && perGroup > 1 && !!question?.columns?.length"
      @turn="pages.turnTo"
      @part="pages.turnByMeasure"
    />
    <LegendLine :measures="measures" />
    <DropZones
      v-if="dragging.isDragging"
      :header-height="headerHeight"
      :label-width="label"
      :rows-fill-sheet="!question?.rows?.length"
    />
    <JumpSlip
      v-if="jumping !== null"
      :begun="jumping"
      :handle="answered.handle"
      :from="cells.active.value.row"
      @land="land"
      @close="endJump"
    />
    <p id="table-keys" class="unseen">
      Arrow keys move. Right opens a member, left closes it; + and − do so in the columns. Enter shows what can be done.
      Space selects a header. Letters jump to a member.
    </p>
    <p class="unseen" aria-live="polite">{{ spoken }}</p>
  </div>
</template>

<style scoped src="./table.css" />
