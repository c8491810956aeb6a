import { ref, watch, type Ref } from 'vue'

/** Left of the first column, and the lowest line of headers above the first row; those above it count on down. */
export const HEADER = -1

export interface Cell {
  row: number
  column: number
}

export interface Grid {
  rowCount: number
  columnCount: number
  headLines: number
  /** Whether the lowest line of headers is the measures', which no opened member pushes up. */
  endsInMeasures: boolean
  pageRows: number
}

/** The one cell of the table that the keyboard is at; headers count as cells. */
export function useActiveCell(grid: Ref<Grid>, bring: (cell: Cell) => void) {
  const active = ref<Cell>({ row: 0, column: HEADER })
  const isShown = ref(false)

  // A line of headers that comes in below leaves the keyboard at the member where it was.
  watch(grid, (now, before) => {
    const { row, column } = active.value
    const isAbove = row < (now.endsInMeasures ? HEADER : 0)
    active.value = bounded({ row: isAbove ? row - (now.headLines - before.headLines) : row, column })
  })

  function bounded({ row, column }: Cell): Cell {
    const { rowCount, columnCount, headLines } = grid.value
    const inside = { row: Math.min(Math.max(row, -headLines), rowCount - 1), column: Math.min(Math.max(column, HEADER), columnCount - 1) }
    // The names in the corner are reached by the tab key.
    return inside.row < 0 && inside.column === HEADER ? { ...inside, row: 0 } : inside
  }

  function moveTo(cell: Cell): void {
    active.value = bounded(cell)
    isShown.value = true
    bring(active.value)
  }

  /** Moves as a key says; false for a key that does not move. `span` are the columns that the cell covers. */
  function move(event: KeyboardEvent, span: { first: number; last: number }): boolean {
    const { row, column } = active.value
    const { rowCount, columnCount, pageRows } = grid.value
    const isFar = event.ctrlKey || event.metaKey
    const to: Partial<Record<string, Cell>> = {
      ArrowDown: { row: isFar ? rowCount - 1 : row + 1, column },
      ArrowUp: { row: isFar ? 0 : row - 1, column },
      ArrowRight: { row, column: isFar ? columnCount - 1 : span.last + 1 },
      ArrowLeft: { row, column: isFar ? HEADER : span.first - 1 },
      PageDown: { row: row + pageRows, column },
      PageUp: { row: Math.max(row - pageRows, 0), column },
      Home: isFar ? { row: 0, column: HEADER } : { row, column: HEADER },
      End: isFar ? { row: rowCount - 1, column: columnCount - 1 } : { row, column: columnCount - 1 },
    }
    const cell = to[event.key]
    if (cell) moveTo(cell)
    return cell !== undefined
  }

  return { active, isShown, move, moveTo }
}

export function cellId(row: number, column: number): string {
  return `cell-${row}-${column}`
}
