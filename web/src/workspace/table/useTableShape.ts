import { computed, type Ref } from 'vue'
import type { ColumnHeader, NumberFormat, RowHeader, Shown, ShownMeasure } from '@/api/types'
import { useWorkspace } from '../store'
import { axisNames } from './axisNames'
import { doneTo, headingOf, numberWriter, type Value } from './format'
import { labelOf, pathOf } from './labels'
import { inRow, layoutRow } from './laidOut'
import { cornerWidth, headWidth, labelWidth, leastWidth, measureWidth, rowHeightOf, stretch } from './layout'
import { LABEL_EDGES, fitted, levelColumns } from './levels'

const SAMPLE_ROWS = 24
/** Beside the last column. */
const EDGE = 16

export type TableShape = ReturnType<typeof useTableShape>

/** The sizes and writers of a table, and how its lines make up rows, columns and totals. */
export function useTableShape(
  shown: Ref<Shown>,
  available: Ref<number>,
  drawn: Ref<{ measure: string | null; width: number } | null>,
) {
  const workspace = useWorkspace()
  const answered = computed(() => shown.value.answered!)
  const window = computed(() => answered.value.window)
  const measures = computed(() => answered.value.measures)
  const question = computed(() => shown.value.document.question)

  // The grand total's rows stay in view: first or last, and the body is what is between.
  const totals = computed(() => window.value.total_rows ?? null)
  const totalCount = computed(() => totals.value?.rows.length ?? 0)
  const isTotalFirst = computed(() => totals.value?.start === 0 && window.value.row_count > totalCount.value)
  const firstBodyRow = computed(() => (isTotalFirst.value ? totalCount.value : 0))
  const bodyRows = computed(() => window.value.row_count - totalCount.value)

  // Where the measures stand inside all columns, one header carries a column for each of them.
  const hasMeasureRow = computed(() => typeof window.value.columns[0]?.measure === 'number')
  const isInside = computed(() => {
    const at = question.value?.measures_at
    return hasMeasureRow.value && (at === null || at === undefined || at >= (question.value?.columns?.length ?? 0))
  })
  const perGroup = computed(() => (isInside.value ? Math.max(measures.value.length, 1) : 1))
  const groupCount = computed(() => Math.ceil(window.value.column_count / perGroup.value))

  // A writer for each way to write numbers: a measure's own, and those that rows of a financial layout have.
  const writers = new WeakMap<NumberFormat, (value: Value) => string>()

  /** The measure of a cell, as its numbers are written and marked there. */
  function measureAt(row: RowHeader | undefined, column: ColumnHeader | undefined): ShownMeasure | undefined {
    const measure = measures.value[row?.measure ?? column?.measure ?? 0]
    return measure && inRow(measure, layoutRow(row, column), answered.value.row_formats)
  }

  function write(value: Value, row: RowHeader | undefined, column: ColumnHeader | undefined): string {
    const format = measureAt(row, column)?.format
    if (!format) return ''
    const known = writers.get(format) ?? numberWriter(format)
    writers.set(format, known)
    return known(value)
  }

  /** How long a row's label is, as it is dressed. */
  function letters(row: RowHeader): number {
    const dress = shown.value.document.dress
    if (dress?.rows === 'full_paths') return pathOf(row.members, dress).length
    return row.member ? labelOf(row.member, dress).length : row.caption.length
  }

  const dress = computed(() => shown.value.document.dress)
  const rowHeight = computed(() => rowHeightOf(dress.value?.look))
  /** How wide somebody has drawn the row headers. */
  const givenLabel = computed(() => (drawn.value?.measure === null ? drawn.value.width : dress.value?.label_width))
  /** The columns of the row headers, where each level has one. */
  const levels = computed(() => {
    if (dress.value?.rows !== 'levels') return undefined
    const natural = levelColumns(window.value, totals.value?.rows ?? [], workspace.catalogue, dress.value)
    return givenLabel.value ? fitted(natural, givenLabel.value) : natural
  })
  const naturalWidths = computed(() => {
    const longest = new Array<string>(perGroup.value).fill('')
    const { columns, rows, values } = window.value
    const lines = [
      ...values.slice(0, SAMPLE_ROWS).map((line, at) => ({ line, row: rows[at] })),
      ...(totals.value?.values ?? []).map((line, at) => ({ line, row: totals.value?.rows[at] })),
    ]
    for (const { line, row } of lines) {
      line.forEach((value, column) => {
        const own = measureAt(row, columns[column])
        // The sign of a change stands before its number.
        const text = (own?.direction ? '▲ ' : '') + write(value, row, columns[column])
        const place = column % perGroup.value
        if (text.length > (longest[place]?.length ?? 0)) longest[place] = text
      })
    }
    const heads = hasMeasureRow.value ? measures.value.map(headingOf) : ['']
    return longest.map((text, place) => {
      const own = isInside.value ? [heads[place] ?? ''] : heads
      return Math.max(...own.map((caption) => measureWidth(caption, text)))
    })
  })
  const needed = computed(() => naturalWidths.value.reduce((sum, width) => sum + width, 0))
  const natural = computed(() => Math.max(needed.value, headWidth(window.value.columns)))
  // The grand total is the longest number of an additive measure, so it sets the width.
  const label = computed(() => {
    if (levels.value)
      return Math.max(
        levels.value.reduce((sum, each) => sum + each.width, LABEL_EDGES),
        givenLabel.value || 170,
      )
    if (givenLabel.value) return givenLabel.value
    const own = Math.max(labelWidth([...window.value.rows, ...(totals.value?.rows ?? [])], letters), 170)
    // The corner names all that stands on the rows where there is room beside the columns.
    const corner = axisNames(shown.value, 'rows').map((each) => each.text)
    return Math.max(own, Math.min(cornerWidth(corner), available.value - EDGE - natural.value * groupCount.value))
  })
  const factor = computed(
    () =>
      (natural.value / Math.max(needed.value, 1)) *
      stretch(natural.value * groupCount.value, available.value - label.value - EDGE),
  )
  const widths = computed(() =>
    naturalWidths.value.map((width, place) => {
      const measure = measures.value[place]
      const given = drawn.value && drawn.value.measure === measure?.name ? drawn.value.width : measure?.dress.width
      const least = measure && hasMeasureRow.value ? leastWidth(doneTo(measure)) : 0
      return Math.max(least, given ?? Math.round(width * factor.value))
    }),
  )
  const headerDepth = computed(() => {
    const depth = window.value.outer_depth + window.value.inner_depth
    return isInside.value || !hasMeasureRow.value ? Math.max(depth, 1) : depth
  })

  return {
    answered,
    window,
    measures,
    totals,
    totalCount,
    isTotalFirst,
    firstBodyRow,
    bodyRows,
    hasMeasureRow,
    isInside,
    perGroup,
    groupCount,
    measureAt,
    write,
    label,
    levels,
    rowHeight,
    widths,
    headerDepth,
  }
}
