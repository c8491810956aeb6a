import { computed, type ComputedRef } from 'vue'
import type { Cell, useActiveCell } from './useActiveCell'

/** Where the cells of a table lie that are drawn together: its body, or the totals that stay in view. */
export interface Part {
  start: number
  count: number
}

export interface BlockedTable {
  cells: ReturnType<typeof useActiveCell>
  /** Where a column begins and ends, in pixels. */
  left: (column: number) => number
  right: (column: number) => number
  rowHeight: ComputedRef<number>
  body: ComputedRef<Part>
  totals: ComputedRef<Part>
}

/** A block of cells: where it is drawn, and how the pointer makes one. */
export function useBlock({ cells, left, right, rowHeight, body, totals }: BlockedTable) {
  /** The cell that the pointer went down on, and whether it has gone on to others since. */
  let begun: Cell | null = null
  let isDrawing = false

  function styleIn({ start, count }: Part): string | null {
    const block = cells.block.value
    if (!block) return null
    const [first, last] = [Math.max(block.rows[0], start), Math.min(block.rows[1], start + count - 1)]
    if (first > last) return null
    const [from, to] = block.columns
    return `left: ${left(from)}px; width: ${right(to) - left(from)}px; top: ${(first - start) * rowHeight.value}px; height: ${(last - first + 1) * rowHeight.value}px`
  }

  function press(cell: Cell | null): void {
    begun = cell
    isDrawing = false
  }

  /** Whether the pointer, held down, has come to another cell, so that a block goes on to it. */
  function pass(cell: Cell): boolean {
    const { row, column } = cells.active.value
    if (!begun || (row === cell.row && column === cell.column)) return false
    if (!isDrawing) cells.moveTo(begun)
    isDrawing = true
    cells.moveTo(cell, true)
    return true
  }

  /** A click ends what was drawn, or goes to a cell. */
  function click(cell: Cell, isReaching: boolean): void {
    if (!isDrawing) cells.moveTo(cell, isReaching)
    isDrawing = false
  }

  return {
    inBody: computed(() => styleIn(body.value)),
    inTotals: computed(() => styleIn(totals.value)),
    press,
    pass,
    click,
  }
}
