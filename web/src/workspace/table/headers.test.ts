import { expect, it } from 'vitest'
import type { ColumnHeader, MemberHeader } from '@/api/types'
import { headerRows, type HeaderShape } from './headers'

function member(dimension: string, ...path: string[]): MemberHeader {
  return {
    dimension,
    hierarchy: dimension,
    level: `level ${path.length}`,
    path,
    caption: path.at(-1),
    is_open: false,
    is_others: false,
  } as unknown as MemberHeader
}

function column(measure: number | null, outer: number, caption: string, ...members: MemberHeader[]): ColumnHeader {
  return { caption, members, measure, outer } as unknown as ColumnHeader
}

function told(shape: HeaderShape, ...headers: ColumnHeader[]): string[][] {
  const rows = headerRows(
    headers.map((header, index) => ({ index, header })),
    shape,
  )
  return rows.map((cells) => cells.map((cell) => `${cell.caption || cell.kind}:${cell.start}+${cell.span}`))
}

const [spring, autumn] = [member('time', 'spring'), member('time', 'autumn')]

it('lets neighbours under one member share a cell', () => {
  const shape = { outer: 1, inner: 0, measures: ['Boardings', 'Fares'] }
  expect(told(shape, column(0, 1, '', spring), column(1, 1, '', spring), column(0, 1, '', autumn))).toEqual([
    ['spring:0+2', 'autumn:2+1'],
    ['Boardings:0+1', 'Fares:1+1', 'Boardings:2+1'],
  ])
})

it('says what is a total of the members before it, and what is the total of all', () => {
  const shape = { outer: 2, inner: 0, measures: null }
  const under = (name: string): MemberHeader[] => [spring, member('mode', name)]
  expect(
    told(
      shape,
      column(null, 2, '', ...under('ferry')),
      column(null, 2, '', ...under('tram')),
      column(null, 2, '', spring),
      column(null, 2, 'All'),
    ),
  ).toEqual([
    ['spring:0+3', 'All:3+1'],
    ['ferry:0+1', 'tram:1+1', 'total:2+1', 'blank:3+1'],
  ])
})

it('begins anew where the same member stands under another measure', () => {
  const shape = { outer: 0, inner: 1, measures: ['Boardings', 'Fares'] }
  expect(told(shape, column(0, 0, '', spring), column(0, 0, '', autumn), column(1, 0, '', spring))).toEqual([
    ['Boardings:0+2', 'Fares:2+1'],
    ['spring:0+1', 'autumn:1+1', 'spring:2+1'],
  ])
})
