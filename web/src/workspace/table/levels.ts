import type { Analysis, Catalogue, MemberHeader, RowHeader, Window } from '@/api/types'
import { labelOf } from './labels'

/** A column of row labels: a level, or without one the measures and totals among the rows. */
export interface LevelColumn {
  level: Window['row_levels'][number] | null
  caption: string
  width: number
}

const LETTER_WIDTH = 6.6
const PADDING = 34
const WIDTH = { narrowest: 76, widest: 210, least: 48 }
/** What stands beside the columns of a row header. */
export const LABEL_EDGES = 14

export function isOfLevel(member: MemberHeader, column: LevelColumn): boolean {
  const level = column.level
  return (
    level !== null &&
    level.dimension === member.dimension &&
    level.hierarchy === member.hierarchy &&
    level.level === member.level
  )
}

/** The column in which a row's own caption stands: its member's level, else the last one, or the first for a grand total. */
export function ownColumn(row: RowHeader, columns: readonly LevelColumn[]): number {
  const at = row.member ? columns.findIndex((each) => isOfLevel(row.member!, each)) : -1
  if (at >= 0) return at
  return columns.at(-1)?.level === null && (row.members.length || row.measure !== null) ? columns.length - 1 : 0
}

/** The columns that a window's rows need, each as wide as its longest label in sight. */
export function levelColumns(
  window: Window,
  extra: readonly RowHeader[],
  catalogue: Catalogue | null,
  dress: Analysis['dress'],
): LevelColumn[] {
  const rows = [...window.rows, ...extra]
  const columns: LevelColumn[] = window.row_levels.map((level) => ({
    level,
    caption: captionOf(level, catalogue),
    width: 0,
  }))
  if (window.measures_on === 'rows') columns.push({ level: null, caption: 'Measures', width: 0 })
  for (const column of columns) {
    const labels = rows.map((row) => {
      const member = row.members.find((each) => isOfLevel(each, column))
      return member ? labelOf(member, dress).length : column.level ? 0 : row.caption.length
    })
    const letters = Math.max(column.caption.length, ...labels)
    column.width = Math.round(Math.min(WIDTH.widest, Math.max(WIDTH.narrowest, letters * LETTER_WIDTH + PADDING)))
  }
  return columns
}

/** The columns in a given width together, each in proportion, but none so narrow that it would say nothing. */
export function fitted(columns: readonly LevelColumn[], width: number): LevelColumn[] {
  const natural = columns.reduce((sum, each) => sum + each.width, 0)
  const share = (width - LABEL_EDGES) / Math.max(natural, 1)
  return columns.map((each) => ({ ...each, width: Math.max(WIDTH.least, Math.floor(each.width * share)) }))
}

function captionOf(level: Window['row_levels'][number], catalogue: Catalogue | null): string {
  const hierarchy = catalogue?.dimensions
    .find((each) => each.name === level.dimension)
    ?.hierarchies.find((each) => each.name === level.hierarchy)
  return hierarchy?.levels.find((each) => each.name === level.level)?.caption ?? level.level
}
