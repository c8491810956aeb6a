import type { ColumnHeader, MemberHeader } from '@/api/types'

export interface HeaderCell {
  kind: 'member' | 'total' | 'grand' | 'blank'
  caption: string
  member: MemberHeader | null
  start: number
  span: number
}

export interface PlacedColumn {
  index: number
  header: ColumnHeader
}

/** One row of header cells per level: neighbours under the same member share a cell, which spans its total too. */
export function headerRows(columns: readonly PlacedColumn[], depth: number): HeaderCell[][] {
  const rows: HeaderCell[][] = []
  for (let row = 0; row < Math.max(depth, 1); row += 1) {
    const cells: HeaderCell[] = []
    let lastKey = ''
    for (const { index, header } of columns) {
      const cell = cellAt(header, row, index, rows[row - 1] ?? [])
      const key = cell.kind === 'member' ? chainKey(header, row) : ''
      const last = cells.at(-1)
      if (last && key && key === lastKey && last.start + last.span === index) last.span += 1
      else cells.push(cell)
      lastKey = key
    }
    rows.push(cells)
  }
  return rows
}

function cellAt(header: ColumnHeader, row: number, index: number, above: readonly HeaderCell[]): HeaderCell {
  const empty = { caption: '', member: null, start: index, span: 1 }
  if (!header.members.length) return { ...empty, kind: row === 0 ? 'grand' : 'blank', caption: row === 0 ? header.caption : '' }
  const member = header.members[row]
  if (member) return { kind: 'member', caption: member.caption, member, start: index, span: 1 }
  const parent = above.find((cell) => cell.start <= index && index < cell.start + cell.span)
  const endsHere = row === header.members.length
  const isShared = (parent?.span ?? 1) > 1 || header.members.at(-1)?.is_open
  return endsHere && isShared ? { ...empty, kind: 'total', caption: 'total' } : { ...empty, kind: 'blank' }
}

function chainKey(header: ColumnHeader, row: number): string {
  return JSON.stringify(header.members.slice(0, row + 1).map((each) => [each.dimension, each.hierarchy, each.path, each.is_others]))
}
