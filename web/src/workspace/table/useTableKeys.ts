import { computed, nextTick, type ComputedRef } from 'vue'
import type { ColumnHeader, MemberHeader, RowHeader, ShownMeasure, Thing } from '@/api/types'
import { useWorkspace } from '../store'
import { useThingMenu } from '../thingMenu'
import { cellThing, measureThing, memberThing } from '../things'
import { useCopying } from './copying'
import type { HeaderCell } from './headers'
import { useSelection } from './selection'
import { HEADER, cellId, type useActiveCell } from './useActiveCell'
import { toggleGesture } from './useMemberToggle'

/** What the keyboard needs of a table: its headers and cells by line, and which columns make up a group. */
export interface KeyedTable {
  cells: ReturnType<typeof useActiveCell>
  heads: ComputedRef<HeaderCell[][]>
  headLines: ComputedRef<number>
  perGroup: ComputedRef<number>
  measures: ComputedRef<ShownMeasure[]>
  rowAt: (row: number) => RowHeader | undefined
  columnAt: (column: number) => ColumnHeader | undefined
  textAt: (row: number, column: number) => string
}

/** A header as the keyboard stands on it: its own member, or a measure, and all that it stands in. */
interface Head {
  axis: 'rows' | 'columns'
  member: MemberHeader | null
  chain: MemberHeader[]
  caption: string
  measure: number | null
  /** The first and last column that it covers; of a row's header, none but its own. */
  first: number
  last: number
}

/** What can be done in the table by keyboard, and what is said of where it is. */
export function useTableKeys(table: KeyedTable, jump: (begun: string) => void) {
  const workspace = useWorkspace()
  const menu = useThingMenu()
  const selection = useSelection()
  const copying = useCopying()
  const { cells } = table
  const here = computed(() => headAt(cells.active.value.row, cells.active.value.column))
  const activeId = computed(() => {
    if (!cells.isShown.value) return undefined
    const { row, column } = cells.active.value
    return cellId(row, row < 0 ? (here.value?.first ?? column) : column)
  })

  /** The header at a line of headers or left of a row; null for a cell. */
  function headAt(row: number, column: number): Head | null {
    if (row >= 0 && column !== HEADER) return null
    if (column === HEADER) {
      const found = table.rowAt(row)
      return found
        ? {
            axis: 'rows',
            member: found.member ?? null,
            chain: found.members,
            caption: found.caption,
            measure: found.measure ?? null,
            first: column,
            last: column,
          }
        : null
    }
    const per = table.perGroup.value
    const group = Math.floor(column / per)
    const depth = table.headLines.value + row
    const cell = table.heads.value[depth]?.find((each) => each.start <= group && group < each.start + each.span)
    if (cell) {
      const last = (cell.start + cell.span) * per - 1
      return {
        axis: 'columns',
        member: cell.member,
        chain: cell.chain,
        caption: cell.caption,
        measure: cell.measure,
        first: cell.start * per,
        last,
      }
    }
    const header = table.columnAt(column)
    const place = column % per
    return header
      ? {
          axis: 'columns',
          member: null,
          chain: header.members,
          caption: table.measures.value[place]?.caption ?? '',
          measure: place,
          first: column,
          last: column,
        }
      : null
  }

  function thingHere(): Thing | null {
    const { row, column } = cells.active.value
    const head = here.value
    if (head?.member) return memberThing(head.member, head.chain, head.axis)
    if (head) {
      const placed = head.measure === null ? undefined : table.measures.value[head.measure]?.placed
      return placed ? measureThing(placed) : null
    }
    const [rowHeader, columnHeader] = [table.rowAt(row), table.columnAt(column)]
    if (!rowHeader || !columnHeader) return null
    const measure = table.measures.value[rowHeader.measure ?? columnHeader.measure ?? 0]
    return cellThing(
      rowHeader.members,
      columnHeader.members,
      measure?.placed ?? null,
      table.textAt(row, column) === '' && !rowHeader.is_heading,
    )
  }

  function openMenu(): void {
    const element = activeId.value ? document.getElementById(activeId.value) : null
    const thing = thingHere()
    if (element && thing) void menu.open(thing, element, thing.kind === 'cell' ? { ...cells.active.value } : null)
  }

  function openAt(event: MouseEvent, row: number, column: number): void {
    event.preventDefault()
    cells.moveTo({ row, column })
    void nextTick(openMenu)
  }

  /** Beside the rows, right opens a member and left closes it, before they move on; + and − do so on any header. */
  function turn(key: string): boolean {
    const head = here.value
    const member = head?.member
    if (!head || !member) return false
    const opens = (key === '+' || (key === 'ArrowRight' && head.axis === 'rows')) && member.can_open && !member.is_open
    const closes = (key === '-' || (key === 'ArrowLeft' && head.axis === 'rows')) && member.is_open
    if (!opens && !closes) return false
    // A key pressed again before the answer is there means the same step, not another.
    if (workspace.underWay) return true
    void workspace.act(toggleGesture(member, head.axis))
    return true
  }

  /** Selects a header, or all from the last one selected to it. */
  function pick(
    event: MouseEvent | KeyboardEvent,
    axis: 'rows' | 'columns',
    line: number,
    member: MemberHeader | null | undefined,
    chain: MemberHeader[],
  ): void {
    if (!member || member.is_others) return
    cells.release()
    const wanted = { axis, line, member, chain }
    if (event.shiftKey) selection.reach(wanted, between(axis, selection.anchor?.line ?? line, line, member))
    else selection.turn(wanted)
  }

  /** The members like `like` from one line to another, each once. */
  function between(axis: 'rows' | 'columns', one: number, other: number, like: MemberHeader) {
    const found = new Map<string, { axis: typeof axis; line: number; member: MemberHeader; chain: MemberHeader[] }>()
    for (let line = Math.min(one, other); line <= Math.max(one, other); line += 1) {
      const members = (axis === 'rows' ? table.rowAt(line)?.members : table.columnAt(line)?.members) ?? []
      const at = members.findIndex(
        (each) => each.hierarchy === like.hierarchy && each.level === like.level && !each.is_others,
      )
      const member = members[at]
      if (member && !found.has(JSON.stringify(member.path)))
        found.set(JSON.stringify(member.path), { axis, line, member, chain: members.slice(0, at + 1) })
    }
    return [...found.values()]
  }

  function key(event: KeyboardEvent): void {
    if (event.target !== event.currentTarget || event.altKey) return
    const head = here.value
    const { row, column } = cells.active.value
    const span = head?.axis === 'columns' ? head : { first: column, last: column }
    if (turn(event.key) || cells.move(event, span)) event.preventDefault()
    else if (event.key === 'Enter' || event.key === 'ContextMenu' || (event.key === 'F10' && event.shiftKey)) {
      event.preventDefault()
      openMenu()
    } else if (event.key === ' ' && head) {
      event.preventDefault()
      pick(event, head.axis, head.axis === 'rows' ? row : head.first, head.member, head.chain)
    } else if (event.key.toLowerCase() === 'c' && (event.ctrlKey || event.metaKey)) {
      event.preventDefault()
      if (cells.block.value) void copying.copyBlock(cells.block.value)
      else if (selection.selected.length) void copying.copySelected()
      else void copying.copyText(head ? head.caption : table.textAt(row, column))
    } else if (event.key === 'Escape') {
      selection.clear()
      cells.release()
    } else if (/^[\p{L}\p{N}]$/u.test(event.key) && !event.ctrlKey && !event.metaKey) {
      event.preventDefault()
      jump(event.key)
    }
  }

  /** What a screen reader hears of where the keyboard is. */
  const spoken = computed(() => {
    if (!cells.isShown.value) return ''
    const { row, column } = cells.active.value
    const block = cells.block.value
    if (block)
      return `${block.rows[1] - block.rows[0] + 1} rows and ${block.columns[1] - block.columns[0] + 1} columns selected`
    const head = here.value
    if (head?.axis === 'columns')
      return [...head.chain.map((each) => each.caption), ...(head.member ? [] : [head.caption])].join(', ')
    const rowHeader = table.rowAt(row)
    const path = rowHeader ? [...rowHeader.above, rowHeader.caption] : []
    const columnHeader = column === HEADER ? undefined : table.columnAt(column)
    if (!columnHeader) return path.join(', ')
    const measure = table.measures.value[rowHeader?.measure ?? columnHeader.measure ?? 0]?.caption
    return `${[...path, ...columnHeader.members.map((each) => each.caption)].join(', ')}, ${measure}: ${table.textAt(row, column) || 'empty'}`
  })

  /** Whether the keyboard is at a header, wherever it stands within it. */
  function isAt(row: number, first: number, last = first): boolean {
    const at = cells.active.value
    return cells.isShown.value && at.row === row && first <= at.column && at.column <= last
  }

  return { activeId, openAt, pick, key, spoken, isAt }
}
