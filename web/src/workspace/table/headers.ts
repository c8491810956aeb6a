import type { ColumnHeader, MemberHeader } from '@/api/types'

export interface HeaderCell {
  kind: 'member' | 'measure' | 'total' | 'grand' | 'blank'
  caption: string
  member: MemberHeader | null
  /** Which of the measures, for a cell that names one. */
  measure: number | null
  /** What the cell's column stands in, outermost first, as far as the cell itself. */
  chain: MemberHeader[]
  start: number
  span: number
}

export interface PlacedColumn {
  index: number
  header: ColumnHeader
}

/** How many header rows stand above the measures and below them; without `measures` they are not among these rows. */
export interface HeaderShape {
  outer: number
  inner: number
  measures: string[] | null
}

/** One row of header cells per level: neighbours under the same member share a cell, which spans its total too. */
export function headerRows(columns: readonly PlacedColumn[], shape: HeaderShape): HeaderCell[][] {
  const count = shape.measures ? shape.outer + 1 + shape.inner : shape.outer + shape.inner
  const rows: HeaderCell[][] = []
  for (let row = 0; row < Math.max(count, 1); row += 1) {
    const cells: HeaderCell[] = []
    let lastKey = ''
    for (const { index, header } of columns) {
      const cell = cellAt(header, row, index, rows[row - 1] ?? [], shape)
      const key = cell.kind === 'member' || cell.kind === 'measure' ? chainKey(cell, header) : ''
      const last = cells.at(-1)
      if (last && key && key === lastKey && last.start + last.span === index) last.span += 1
      else cells.push(cell)
      lastKey = key
    }
    rows.push(cells)
  }
  return rows
}

function cellAt(
  header: ColumnHeader,
  row: number,
  index: number,
  above: readonly HeaderCell[],
  shape: HeaderShape,
): HeaderCell {
  const empty = { caption: '', member: null, measure: null, chain: header.members, start: index, span: 1 }
  const isInner = shape.measures !== null && row > shape.outer
  if (shape.measures && row === shape.outer) {
    const caption = shape.measures[header.measure ?? 0] ?? ''
    return {
      ...empty,
      kind: 'measure',
      caption,
      measure: header.measure ?? 0,
      chain: header.members.slice(0, header.outer),
    }
  }
  const first = isInner ? header.outer : 0
  const own = shape.measures ? header.members.slice(first, isInner ? undefined : header.outer) : header.members
  const at = isInner ? row - shape.outer - 1 : row
  const member = own[at]
  if (member)
    return { ...empty, kind: 'member', caption: member.caption, member, chain: header.members.slice(0, first + at + 1) }
  if (!header.members.length)
    return { ...empty, kind: at === 0 ? 'grand' : 'blank', caption: at === 0 ? header.caption : '' }
  if (!own.length)
    return at === 0 && isInner ? { ...empty, kind: 'total', caption: 'total' } : { ...empty, kind: 'blank' }
  const parent = above.find((cell) => cell.start <= index && index < cell.start + cell.span)
  const isShared = (parent?.span ?? 1) > 1 || own.at(-1)?.is_open
  return at === own.length && isShared ? { ...empty, kind: 'total', caption: 'total' } : { ...empty, kind: 'blank' }
}

function chainKey(cell: HeaderCell, header: ColumnHeader): string {
  const isBelowMeasure = cell.kind === 'measure' || cell.chain.length > header.outer
  return JSON.stringify([
    cell.chain.map((each) => [each.dimension, each.hierarchy, each.path, each.is_others]),
    isBelowMeasure ? header.measure : null,
  ])
}
