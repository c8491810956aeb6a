import { computed, ref, watch, type Ref } from 'vue'

/** The line of headers, seen from the cells: above the first row, or left of the first column. */
export const HEADER = -1

export interface Cell {
  row: number
  column: number
}

export interface Grid {
  rowCount: number
  columnCount: number
  pageRows: number
}

/** The one cell of the table that the keyboard is at; headers count as cells. */
export function useActiveCell(grid: Ref<Grid>, bring: (cell: Cell) => void) {
  const active = ref<Cell>({ row: 0, column: HEADER })
  const isShown = ref(false)
  const id = computed(() => (isShown.value ? cellId(active.value.row, active.value.column) : undefined))

  watch(grid, () => {
    active.value = bounded(active.value)
  })

  function bounded({ row, column }: Cell): Cell {
    const lastRow = grid.value.rowCount - 1
    const lastColumn = grid.value.columnCount - 1
    return { row: Math.min(Math.max(row, HEADER), lastRow), column: Math.min(Math.max(column, HEADER), lastColumn) }
  }

  function moveTo(cell: Cell): void {
    const { row, column } = bounded(cell)
    // The corner has nothing to stand on.
    active.value = row === HEADER && column === HEADER ? { row: 0, column } : { row, column }
    isShown.value = true
    bring(active.value)
  }

  /** Moves as a key says; false for a key that does not move. */
  function move(event: KeyboardEvent): boolean {
    const { row, column } = active.value
    const { rowCount, columnCount, pageRows } = grid.value
    const isFar = event.ctrlKey || event.metaKey
    const to: Partial<Record<string, Cell>> = {
      ArrowDown: { row: isFar ? rowCount - 1 : row + 1, column },
      ArrowUp: { row: isFar ? 0 : row - 1, column },
      ArrowRight: { row, column: isFar ? columnCount - 1 : column + 1 },
      ArrowLeft: { row, column: isFar ? HEADER : column - 1 },
      PageDown: { row: row + pageRows, column },
      PageUp: { row: Math.max(row - pageRows, 0), column },
      Home: isFar ? { row: 0, column: HEADER } : { row, column: HEADER },
      End: isFar ? { row: rowCount - 1, column: columnCount - 1 } : { row, column: columnCount - 1 },
    }
    const cell = to[event.key]
    if (cell) moveTo(cell)
    return cell !== undefined
  }

  return { active, isShown, id, move, moveTo }
}

export function cellId(row: number, column: number): string {
  return `cell-${row}-${column}`
}
