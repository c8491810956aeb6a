import type { Library, LibraryEntry } from '@/api/types'

/** Where in the library one looks: one of its lists, or a folder by its id. */
export type Place = 'recent' | 'favourites' | 'all' | 'shared' | 'deleted' | (string & {})

const RECENT = 12
const NEW = 6

/** What lies in a place, in the order that is its own. */
export function entriesIn(place: Place, library: Library, me: string): LibraryEntry[] {
  const all = library.entries
  if (place === 'recent') {
    const opened = all.filter((entry) => entry.opened_at)
    return opened.sort((one, other) => other.opened_at!.localeCompare(one.opened_at!)).slice(0, RECENT)
  }
  if (place === 'favourites') return all.filter((entry) => entry.is_favourite)
  if (place === 'shared') return all.filter((entry) => entry.owner !== me)
  if (place === 'all') return [...all]
  if (place === 'deleted') return []
  return all.filter((entry) => entry.folder === place)
}

/** What others shared and the person has not opened yet, the latest first. */
export function newIn(library: Library, me: string): LibraryEntry[] {
  const unopened = library.entries.filter((entry) => entry.owner !== me && !entry.opened_at)
  return unopened.sort((one, other) => other.updated_at.localeCompare(one.updated_at)).slice(0, NEW)
}

/** What is said where nothing lies. */
export const NOTHING: Record<string, string> = {
  recent: 'What you open is listed here, the last one first.',
  favourites: 'None yet. The star beside an analysis puts it here.',
  shared: 'What colleagues share with you is listed here.',
  all: 'What you save, and what colleagues share with you, is listed here.',
  deleted: 'Nothing was deleted in the last thirty days.',
  folder: 'Nothing lies here yet. Choose it as the folder when you save, or move an analysis here.',
}
