import type { Folder, LibraryEntry, Version } from '@/api/types'

export type Order = 'name' | 'changed' | 'opened' | 'author'
/** What each order is called in the list of them. */
export const ORDERS: { title: string; value: Order }[] = [
  { title: 'by name', value: 'name' },
  { title: 'changed last', value: 'changed' },
  { title: 'opened last', value: 'opened' },
  { title: 'by author', value: 'author' },
]

/** Entries in an order; ties, and those that have nothing to be ordered by, by name. */
export function ordered(entries: readonly LibraryEntry[], order: Order): LibraryEntry[] {
  const byName = (one: LibraryEntry, other: LibraryEntry): number => one.name.localeCompare(other.name)
  const by: Record<Order, (one: LibraryEntry, other: LibraryEntry) => number> = {
    name: byName,
    changed: (one, other) => other.updated_at.localeCompare(one.updated_at),
    opened: (one, other) => (other.opened_at ?? '').localeCompare(one.opened_at ?? ''),
    author: (one, other) => one.owner_name.localeCompare(other.owner_name),
  }
  return [...entries].sort((one, other) => by[order](one, other) || byName(one, other))
}

/** The entries in which each of the words stands: in their name, sentence, description, folder or author, or among what they use. */
export function matching(
  entries: readonly LibraryEntry[],
  words: string,
  paths: ReadonlyMap<string, string>,
): LibraryEntry[] {
  const wanted = words.toLocaleLowerCase().split(/\s+/).filter(Boolean)
  return entries.filter((entry) => {
    const text = [
      entry.name,
      entry.sentence,
      entry.description,
      entry.owner_name,
      paths.get(entry.folder ?? '') ?? '',
      ...(entry.brief?.uses ?? []),
    ]
      .join(' ')
      .toLocaleLowerCase()
    return wanted.every((word) => text.includes(word))
  })
}

/** Each folder's way from the outermost one, "Ridership › By month". */
export function pathsOf(folders: readonly Folder[]): Map<string, string> {
  const known = new Map(folders.map((folder) => [folder.id, folder]))
  const path = (folder: Folder): string => {
    const above = known.get(folder.parent ?? '')
    return above ? `${path(above)} › ${folder.name}` : folder.name
  }
  return new Map(folders.map((folder) => [folder.id, path(folder)]))
}

export interface FolderLine {
  folder: Folder
  depth: number
}

/** The folders as a tree is read: each under the one that it lies in, by name. */
export function asTree(folders: readonly Folder[], parent: string | null = null, depth = 0): FolderLine[] {
  return folders
    .filter((folder) => folder.parent === parent)
    .sort((one, other) => one.name.localeCompare(other.name))
    .flatMap((folder) => [{ folder, depth }, ...asTree(folders, folder.id, depth + 1)])
}

const dayFormat = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
const timeFormat = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })

/** A moment as people say it: the time today, the day otherwise. */
export function whenSaid(iso: string, now: Date = new Date()): string {
  const moment = new Date(iso)
  return moment.toDateString() === now.toDateString() ? timeFormat.format(moment) : dayFormat.format(moment)
}

/** A moment with its day, whichever it is: "1 Dec 2026, 07:00". */
export function momentSaid(iso: string): string {
  return `${daySaid(iso)}, ${timeFormat.format(new Date(iso))}`
}

/** A day as people say it. */
export function daySaid(iso: string): string {
  return dayFormat.format(new Date(iso))
}

/** What a version changed of the one before, in words. */
export function changeWords(changes: Version['changes']): string {
  const said = (side: string): string[] =>
    changes.filter((each) => each.side === side).map(({ part, text }) => `${part} ${text}`)
  const [gone, come] = [said('before'), said('after')]
  return [gone.length ? `no longer ${gone.join(', ')}` : '', come.length ? `now ${come.join(', ')}` : '']
    .filter(Boolean)
    .join('; ')
}

/** What somebody may do, as it is said of them. */
export const MAY: Record<LibraryEntry['may'], string> = {
  see: 'may look at it',
  explore: 'may explore it',
  change: 'may change it',
  manage: 'may manage it',
}
