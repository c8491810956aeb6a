import { shallowReactive, watch, type Ref } from 'vue'
import { GET, body } from '@/api/client'
import type { ColumnHeader, RowHeader, Shown, Window } from '@/api/types'
import type { Value } from './format'

// The size of the window that every step brings with it, so that it is the first block.
const ROWS = 80
const COLUMNS = 40

/** The answer's cells, fetched a block at a time as they come into sight. */
export function useWindows(shown: Ref<Shown | null>) {
  const blocks = shallowReactive(new Map<string, Window>())
  const asked = new Set<string>()

  watch(
    shown,
    (now) => {
      blocks.clear()
      asked.clear()
      if (now) blocks.set('0:0', now.window)
    },
    { immediate: true, flush: 'sync' },
  )

  function block(row: number, column: number): Window | undefined {
    return blocks.get(`${Math.floor(row / ROWS)}:${Math.floor(column / COLUMNS)}`)
  }

  async function fetchBlock(key: string, rowBlock: number, columnBlock: number): Promise<void> {
    const handle = shown.value?.handle
    if (!handle || blocks.has(key) || asked.has(key)) return
    asked.add(key)
    const query = { row_start: rowBlock * ROWS, rows: ROWS, column_start: columnBlock * COLUMNS, columns: COLUMNS }
    const found = await body(GET('/api/answers/{handle}/window', { params: { path: { handle }, query } })).catch(() => null)
    asked.delete(key)
    if (found && shown.value?.handle === handle) blocks.set(key, found)
  }

  /** Sees to it that these rows and columns are there, or on their way. Ends are inclusive. */
  function ensure(firstRow: number, lastRow: number, firstColumn: number, lastColumn: number): void {
    for (let row = Math.floor(firstRow / ROWS); row <= Math.floor(lastRow / ROWS); row += 1) {
      for (let column = Math.floor(firstColumn / COLUMNS); column <= Math.floor(lastColumn / COLUMNS); column += 1) {
        void fetchBlock(`${row}:${column}`, row, column)
      }
    }
  }

  function rowHeader(row: number, column = 0): RowHeader | undefined {
    return block(row, column)?.rows[row % ROWS]
  }

  function columnHeader(column: number, row = 0): ColumnHeader | undefined {
    const found = block(row, column) ?? block(0, column)
    return found?.columns[column % COLUMNS]
  }

  function value(measure: number, row: number, column: number): Value {
    return block(row, column)?.values[measure]?.[row % ROWS]?.[column % COLUMNS]
  }

  function total(measure: number, column: number, row = 0): Value {
    const found = block(row, column) ?? block(0, column)
    return found?.total_row?.[measure]?.[column % COLUMNS]
  }

  return { ensure, rowHeader, columnHeader, value, total }
}
