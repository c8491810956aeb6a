import { shallowReactive, watch, type Ref } from 'vue'
import { ApiError, GET, POST, body } from '@/api/client'
import type { Answered, ColumnHeader, Mark, NumberDress, RowHeader, Window, WindowMarks } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import type { Value } from './format'

// The size of the window that every step brings with it, so that it is the first block.
const ROWS = 80
const COLUMNS = 40
/** How many blocks are kept, the farthest gone first: a million rows scrolled through must not fill the memory. */
const KEPT = 400

/** The answer's cells, with the marks that their dress gives them, fetched a block at a time as they come into sight. Rows and columns are lines of the answer. */
export function useWindows(answered: Ref<Answered>, dressed: () => NumberDress[]) {
  const blocks = shallowReactive(new Map<string, Window>())
  const marked = shallowReactive(new Map<string, WindowMarks>())
  const markedAcross = shallowReactive(new Map<number, WindowMarks>())
  const asked = new Set<string>()
  const problem = useProblem()
  const workspace = useWorkspace()
  /** The answer that is being asked again, for the server has let it go. */
  let renewed = ''
  // What every block of rows says again of its columns, kept once: by the number of the block of columns.
  const across = shallowReactive(new Map<number, Window>())

  function keep(rowBlock: number, columnBlock: number, found: Window): void {
    blocks.set(`${rowBlock}:${columnBlock}`, found)
    if (!across.has(columnBlock)) across.set(columnBlock, found)
  }

  function keepMarks(rowBlock: number, columnBlock: number, found: WindowMarks): void {
    marked.set(`${rowBlock}:${columnBlock}`, found)
    if (!markedAcross.has(columnBlock)) markedAcross.set(columnBlock, found)
  }

  watch(
    answered,
    (now) => {
      blocks.clear()
      marked.clear()
      markedAcross.clear()
      across.clear()
      asked.clear()
      renewed = ''
      keep(0, 0, now.window)
      if (now.marks) keepMarks(0, 0, now.marks)
    },
    { immediate: true, flush: 'sync' },
  )

  function block(row: number, column: number): Window | undefined {
    return blocks.get(`${Math.floor(row / ROWS)}:${Math.floor(column / COLUMNS)}`)
  }

  async function fetchBlock(key: string, rowBlock: number, columnBlock: number): Promise<void> {
    const { handle, marks } = answered.value
    if (blocks.has(key) || asked.has(key)) return
    asked.add(key)
    const query = { row_start: rowBlock * ROWS, rows: ROWS, column_start: columnBlock * COLUMNS, columns: COLUMNS }
    const path = { handle }
    const [found, marksThere] = await Promise.all([
      body(GET('/api/answers/{handle}/window', { params: { path, query } })).catch((error: unknown) =>
        missed(error, handle, () => fetchBlock(key, rowBlock, columnBlock)),
      ),
      marks
        ? body(POST('/api/answers/{handle}/marks', { params: { path }, body: { ...query, numbers: dressed() } })).catch(
            () => null,
          )
        : null,
    ])
    asked.delete(key)
    if (!found || answered.value.handle !== handle) return
    if (marksThere) keepMarks(rowBlock, columnBlock, marksThere)
    keep(rowBlock, columnBlock, found)
    for (const old of blocks.keys()) {
      if (blocks.size <= KEPT) break
      if (old === '0:0' || old === key) continue
      blocks.delete(old)
      marked.delete(old)
    }
  }

  /** Cells did not come: an answer that the server has let go is asked again; else it is said, once for all of them. */
  function missed(error: unknown, handle: string, again: () => Promise<void>): null {
    if (answered.value.handle !== handle) return null
    if (error instanceof ApiError && error.code === 'answer-gone') {
      if (renewed !== handle) void workspace.run()
      renewed = handle
    } else problem.tell(error, again)
    return null
  }

  /** Sees to it that these rows and columns are there, or on their way, and those next to them. Ends are inclusive. */
  function ensure(firstRow: number, lastRow: number, firstColumn: number, lastColumn: number): void {
    const { row_count, column_count } = answered.value.window
    const rows = blockRange(firstRow, lastRow, ROWS, row_count)
    const columns = blockRange(firstColumn, lastColumn, COLUMNS, column_count)
    for (const isNear of [false, true]) {
      for (let row = rows.first - Number(isNear); row <= rows.last + Number(isNear); row += 1) {
        if (row < 0 || row * ROWS >= row_count) continue
        for (let column = columns.first; column <= columns.last; column += 1)
          void fetchBlock(`${row}:${column}`, row, column)
      }
    }
  }

  function rowHeader(row: number, column = 0): RowHeader | undefined {
    return block(row, column)?.rows[row % ROWS]
  }

  function columnHeader(column: number): ColumnHeader | undefined {
    return across.get(Math.floor(column / COLUMNS))?.columns[column % COLUMNS]
  }

  function value(row: number, column: number): Value {
    return block(row, column)?.values[row % ROWS]?.[column % COLUMNS]
  }

  function mark(row: number, column: number): Mark | null {
    return (
      marked.get(`${Math.floor(row / ROWS)}:${Math.floor(column / COLUMNS)}`)?.cells[row % ROWS]?.[column % COLUMNS] ??
      null
    )
  }

  /** The mark of a cell of the grand total's rows, counted from the first of them. */
  function totalMark(line: number, column: number): Mark | null {
    return markedAcross.get(Math.floor(column / COLUMNS))?.totals[line]?.[column % COLUMNS] ?? null
  }

  /** A cell of the grand total's rows, counted from the first of them. */
  function total(line: number, column: number): Value {
    return across.get(Math.floor(column / COLUMNS))?.total_rows?.values[line]?.[column % COLUMNS]
  }

  return { ensure, rowHeader, columnHeader, value, mark, total, totalMark }
}

function blockRange(first: number, last: number, size: number, count: number): { first: number; last: number } {
  return {
    first: Math.max(0, Math.floor(first / size)),
    last: Math.floor(Math.min(last, Math.max(count - 1, 0)) / size),
  }
}
