import { computed, type Ref } from 'vue'
import type { RowHeader, ShownMeasure } from '@/api/types'
import { useSaying } from '../keeping/saying'
import { exactFigure, numberOf } from './format'
import { changeMark, groundOf, isMarked, type CellMark } from './marks'
import type { TableShape } from './useTableShape'
import type { useWindows } from './useWindows'

/** What every cell says, and what marks it, by its row and column; rows of the grand total among them. */
export function useCellTexts(shape: TableShape, windows: ReturnType<typeof useWindows>, firstColumn: Ref<number>) {
  const saying = useSaying()
  const { totals, measures } = shape

  /** Which of the grand total's rows a row is, from 0; below 0 and beyond them for a row of the body. */
  function lineOf(row: number): number {
    return totals.value ? row - totals.value.start : -1
  }

  function totalAt(row: number): RowHeader | undefined {
    return totals.value?.rows[lineOf(row)]
  }

  function rowAt(row: number): RowHeader | undefined {
    return totalAt(row) ?? windows.rowHeader(row, firstColumn.value)
  }

  function write(row: number, column: number): string {
    return shape.write(windows.value(row, column), windows.rowHeader(row, column), windows.columnHeader(column))
  }

  function writeTotal(row: number, column: number): string {
    return shape.write(windows.total(lineOf(row), column), totalAt(row), windows.columnHeader(column))
  }

  function textAt(row: number, column: number): string {
    return totalAt(row) ? writeTotal(row, column) : write(row, column)
  }

  function measureOf(row: number, column: number): ShownMeasure | undefined {
    return shape.measureAt(totalAt(row) ?? windows.rowHeader(row, column), windows.columnHeader(column))
  }

  /** All digits of a number that may be written shorter; undefined where no number stands. */
  function exactAt(row: number, column: number): string | undefined {
    const measure = measureOf(row, column)
    const value = totalAt(row) ? windows.total(lineOf(row), column) : windows.value(row, column)
    return measure && exactFigure(measure.format, value, textAt(row, column))
  }

  const hasMarks = computed(
    () => saying.places.size > 0 || measures.value.some((each) => isMarked(each) || !!each.direction),
  )

  function markAt(row: number, column: number): CellMark | null {
    return withSaid(row, column, numberMarkAt(row, column))
  }

  function totalMarkAt(row: number, column: number): CellMark | null {
    return withSaid(row, column, totalNumberMarkAt(row, column))
  }

  function withSaid(row: number, column: number, own: CellMark | null): CellMark | null {
    return saying.isSaid(row, column) ? { ...own, isSaid: true } : own
  }

  function numberMarkAt(row: number, column: number): CellMark | null {
    const found = windows.mark(row, column)
    const measure = measureOf(row, column)
    if (!measure) return null
    const own = found?.meaning
      ? { meaning: found.meaning }
      : changeMark(measure, numberOf(windows.value(row, column)), textAt(row, column))
    return found || own ? { style: found ? groundOf(measure, found.ground) : undefined, ...own } : null
  }

  function totalNumberMarkAt(row: number, column: number): CellMark | null {
    const found = windows.totalMark(lineOf(row), column)
    if (found?.meaning) return { meaning: found.meaning }
    const measure = measureOf(row, column)
    return measure ? changeMark(measure, numberOf(windows.total(lineOf(row), column)), writeTotal(row, column)) : null
  }

  return { rowAt, write, writeTotal, textAt, exactAt, hasMarks, markAt, totalMarkAt }
}
