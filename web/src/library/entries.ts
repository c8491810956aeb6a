import type { LibraryEntry } from '@/api/types'

export interface FolderGroup {
  folder: string
  entries: LibraryEntry[]
}

/** Entries by folder, those without one first, both in the order given. */
export function byFolder(entries: readonly LibraryEntry[]): FolderGroup[] {
  const groups = new Map<string, LibraryEntry[]>()
  for (const entry of entries) groups.set(entry.folder, [...(groups.get(entry.folder) ?? []), entry])
  return [...groups].map(([folder, list]) => ({ folder, entries: list }))
}

/** The entries whose name, sentence, description or owner hold the words. */
export function matching(entries: readonly LibraryEntry[], words: string): LibraryEntry[] {
  const wanted = words.trim().toLocaleLowerCase()
  if (!wanted) return [...entries]
  return entries.filter((entry) =>
    [entry.name, entry.sentence, entry.description, entry.folder, entry.owner_name].some((text) =>
      text.toLocaleLowerCase().includes(wanted),
    ),
  )
}

const dayFormat = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
const timeFormat = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })

/** A moment as people say it: the time today, the day otherwise. */
export function whenSaid(iso: string, now: Date = new Date()): string {
  const moment = new Date(iso)
  return moment.toDateString() === now.toDateString() ? timeFormat.format(moment) : dayFormat.format(moment)
}
