import { expect, it } from 'vitest'
import type { Folder, LibraryEntry, Version } from '@/api/types'
import { asTree, changeWords, matching, ordered, pathsOf, whenSaid } from './entries'

function entry(name: string, more: Partial<LibraryEntry> = {}): LibraryEntry {
  return {
    name,
    sentence: '',
    description: '',
    owner_name: 'Ines',
    updated_at: '2026-01-01',
    folder: null,
    ...more,
  } as LibraryEntry
}

const FOLDERS = [
  ['r', 'Ridership', null],
  ['m', 'By month', 'r'],
  ['f', 'Fares', null],
].map(([id, name, parent]) => ({ id, name, parent }) as Folder)

it('orders by what is asked, and ties by name', () => {
  const entries = [entry('B', { opened_at: '2026-02-01' }), entry('C'), entry('A')]
  expect(ordered(entries, 'opened').map((each) => each.name)).toEqual(['B', 'A', 'C'])
  expect(ordered(entries, 'name').map((each) => each.name)).toEqual(['A', 'B', 'C'])
})

it('finds each of the words, wherever one stands', () => {
  const entries = [entry('Harbour', { sentence: 'Boardings by Line', folder: 'm' }), entry('Fares')]
  const paths = pathsOf(FOLDERS)
  expect(paths.get('m')).toBe('Ridership › By month')
  expect(matching(entries, 'boardings MONTH ines', paths).map((each) => each.name)).toEqual(['Harbour'])
  expect(matching(entries, 'boardings fares', paths)).toEqual([])
})

it('reads folders as a tree, by name', () => {
  expect(asTree(FOLDERS).map(({ folder, depth }) => [folder.id, depth])).toEqual([
    ['f', 0],
    ['r', 0],
    ['m', 1],
  ])
})

it('tells the time of today and the day of any other', () => {
  const now = new Date(2026, 10, 30, 18, 0)
  expect(whenSaid(new Date(2026, 10, 30, 9, 5).toISOString(), now)).toBe('09:05')
  expect(whenSaid(new Date(2026, 10, 29, 9, 5).toISOString(), now)).toBe('29 Nov 2026')
})

it('says what a version no longer has, then what it has now', () => {
  const changes = [
    { side: 'after', part: 'by', text: 'Line' },
    { side: 'before', part: 'by', text: 'Stop' },
  ] as Version['changes']
  expect(changeWords(changes)).toBe('no longer by Stop; now by Line')
})
