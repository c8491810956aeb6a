import type { ColumnHeader, RowHeader } from '@/api/types'
import { layoutLook } from './laidOut'
import { IN_PART } from './labels'

// The table's sizes in pixels, as the look asks.
const ROW_HEIGHTS = { ruled: 21, striped: 21, open: 28, tight: 17 }
export const HEADER_ROW_HEIGHT = 24
export const INDENT = 15
export const MEASURE_GAP = 84
const DIGIT_WIDTH = 7
const LETTER_WIDTH = 6.6
const CELL_PADDING = 24
const LABEL_PADDING = 40
const NARROWEST_CELL = 66
const SHORTEST_NAME = 26
const WIDEST_MEASURE_HEADER = 165
const TURN_WIDTH = 15
const WIDEST_HEAD = 190
const MOST_STRETCH = 1.75
const LABEL = { narrowest: 150, widest: 300 }
const CORNER = { padding: 34, widest: 260 }

/** How high a row is, as the table looks. */
export function rowHeightOf(look: keyof typeof ROW_HEIGHTS | undefined): number {
  return ROW_HEIGHTS[look ?? 'ruled']
}

/** The width of one measure's cells: as wide as its largest number or its header needs. */
export function measureWidth(caption: string, largest: string): number {
  const header = Math.min(caption.length * LETTER_WIDTH, WIDEST_MEASURE_HEADER)
  return Math.max(NARROWEST_CELL, Math.max(largest.length * DIGIT_WIDTH, header) + CELL_PADDING)
}

/** A column is never so narrow that what was done to its numbers could not be read. */
export function leastWidth(done: string): number {
  return done ? Math.round(done.length * LETTER_WIDTH) + CELL_PADDING + SHORTEST_NAME : 0
}

/** The width that the captions above the columns need, within reason. */
export function headWidth(columns: readonly ColumnHeader[]): number {
  const longest = columns.map(
    (column) =>
      (column.caption.length + (column.members.at(-1)?.is_part_filled ? IN_PART.length : 0)) * LETTER_WIDTH +
      CELL_PADDING +
      TURN_WIDTH,
  )
  return Math.min(WIDEST_HEAD, Math.max(0, ...longest))
}

/** The width of the row headers: as wide as the longest in sight, within reason. */
export function labelWidth(rows: readonly RowHeader[], letters: (row: RowHeader) => number): number {
  const longest = rows.map((row) => row.indent * INDENT + letters(row) * LETTER_WIDTH + LABEL_PADDING)
  return Math.round(Math.min(LABEL.widest, Math.max(LABEL.narrowest, ...longest)))
}

/** The width that the names of what stands on the rows need, within reason. */
export function cornerWidth(names: readonly string[]): number {
  return Math.min(CORNER.widest, Math.round(names.join(' › ').length * LETTER_WIDTH + CORNER.padding))
}

/** How much wider than they need the columns may be to fill the sheet. */
export function stretch(natural: number, available: number): number {
  if (natural <= 0 || natural >= available) return 1
  return Math.min(MOST_STRETCH, available / natural)
}

/** How a row is set: weight for the outer level, softness for the deepest. */
export function rowTone(row: RowHeader | undefined, isNested: boolean): string {
  const laid = row && layoutLook(row)
  if (laid) return laid
  if (!row || !isNested) return 'plain'
  return row.indent === 0 ? 'outer' : row.indent === 1 ? 'plain' : 'deep'
}
