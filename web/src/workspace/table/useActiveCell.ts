import { computed, ref, watch, type Ref } from 'vue'

/** Left of the first column, and the lowest line of headers above the first row; those above it count on down. */
export const HEADER = -1

export interface Cell {
  row: number
  column: number
}

/** Cells beside each other; the last row and column are in it. */
export interface Block {
  rows: [number, number]
  columns: [number, number]
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
  /** The cell at which a block of them was begun; it goes on to the one where the keyboard is. */
  const anchor = ref<Cell | null>(null)
  const block = computed<Block | null>(() => {
    const { row, column } = active.value
    if (!anchor.value || row < 0 || column === HEADER) return null
    return { rows: ordered(anchor.value.row, row), columns: ordered(anchor.value.column, column) }
  })

  // A line of headers that comes in below leaves the keyboard at the member where it was.
  watch(grid, (now, before) => {
    anchor.value = null
    const { row, column } = active.value
    const isAbove = row < (now.endsInMeasures ? HEADER : 0)
    active.value = bounded({ row: isAbove ? row - (now.headLines - before.headLines) : row, column })
  })

  function bounded({ row, column }: Cell): Cell {
    const { rowCount, columnCount, headLines } = grid.value
    const inside = {
      row: Math.min(Math.max(row, -headLines), rowCount - 1),
      column: Math.min(Math.max(column, HEADER), columnCount - 1),
    }
    // The names in the corner are reached by the tab key.
    return inside.row < 0 && inside.column === HEADER ? { ...inside, row: 0 } : inside
  }

  /** Args: `isReaching`: a block of cells goes on from where the keyboard was; headers are not in it. */
  function moveTo(cell: Cell, isReaching = false): void {
    const isInside = active.value.row >= 0 && active.value.column !== HEADER
    anchor.value = isReaching && (anchor.value || isInside) ? (anchor.value ?? active.value) : null
    active.value = bounded(anchor.value ? { row: Math.max(cell.row, 0), column: Math.max(cell.column, 0) } : cell)
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
    if (cell) moveTo(cell, event.shiftKey)
    return cell !== undefined
  }

  function release(): void {
    anchor.value = null
  }

  return { active, block, isShown, move, moveTo, release }
}

function ordered(one: number, other: number): [number, number] {
  return one < other ? [one, other] : [other, one]
}

export function cellId(row: number, column: number): string {
  return `cell-${row}-${column}`
}
