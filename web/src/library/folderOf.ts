import { POST, body } from '@/api/client'
import { useLibrary } from './library'

/** The id of the folder that was chosen in a FolderField, which is made where there is none of that name yet. */
export async function folderOf(place: string | null): Promise<string | null> {
  const library = useLibrary()
  const wanted = place?.trim()
  if (!wanted) return null
  const folders = library.library?.folders ?? []
  if (folders.some((folder) => folder.id === wanted)) return wanted
  const known = folders.find(
    (folder) => library.canPut(folder.id) && library.paths.get(folder.id)?.toLowerCase() === wanted.toLowerCase(),
  )
  if (known) return known.id
  const made = await body(POST('/api/folders', { body: { name: wanted, name_parts: [] } }))
  await library.load()
  return made.id
}
