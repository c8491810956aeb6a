import { useTimeoutFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import { DELETE, GET, POST, PUT, body } from '@/api/client'
import type { Folder, Library, LibraryEntry } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { pathsOf } from './entries'

/** While a model is being opened, the library looks again so often. */
const LOOK_MS = 1500

/** What a person may open, and all that can be done with it without opening it. */
export const useLibrary = defineStore('library', () => {
  const problem = useProblem()
  const library = shallowRef<Library | null>(null)
  /** What was deleted last, for as long as the page is open. */
  const deleted = shallowRef<{ name: string; back: () => Promise<void> } | null>(null)
  const paths = computed(() => pathsOf(library.value?.folders ?? []))
  const { start: lookAgain } = useTimeoutFn(() => load(), LOOK_MS, { immediate: false })

  /** Does something, and says it where it cannot be done; what did not get through can be tried again. */
  async function doing(act: () => Promise<unknown>): Promise<void> {
    await act().catch((error: unknown) => problem.tell(error, () => doing(act)))
  }

  function load(): Promise<void> {
    return doing(async () => {
      library.value = await body(GET('/api/library'))
      if (library.value.models.some((model) => model.state === 'opening')) lookAgain()
    })
  }

  /** Does something, then looks at what there is now. */
  function changing(act: () => Promise<unknown>): Promise<void> {
    return doing(async () => {
      await act()
      await load()
    })
  }

  function discard(ids: string[]): Promise<void> {
    return changing(async () => {
      for (const id of ids) await body(DELETE('/api/drafts/{id}', { params: { path: { id } } }))
    })
  }

  /** What could not be made by itself is read. */
  function putAway(job: string): Promise<void> {
    return changing(() => body(PUT('/api/jobs/{id}/read', { params: { path: { id: job } } })))
  }

  function turnFavourite(entry: LibraryEntry): Promise<void> {
    const params = { path: { id: entry.id } }
    return changing(() =>
      body(
        entry.is_favourite
          ? DELETE('/api/analyses/{id}/favourite', { params })
          : PUT('/api/analyses/{id}/favourite', { params }),
      ),
    )
  }

  function copy(entry: LibraryEntry): Promise<void> {
    const words = {
      name: `${entry.name}, copy`.slice(0, 200),
      description: entry.description,
      folder: canPut(entry.folder) ? entry.folder : null,
    }
    return changing(() => body(POST('/api/analyses/{id}/copy', { params: { path: { id: entry.id } }, body: words })))
  }

  function remove(entry: LibraryEntry): Promise<void> {
    return changing(async () => {
      await body(DELETE('/api/analyses/{id}', { params: { path: { id: entry.id } } }))
      deleted.value = { name: entry.name, back: () => bringBack(entry) }
    })
  }

  function removeModel(model: { name: string; caption: string }): Promise<void> {
    return changing(async () => {
      await body(DELETE('/api/bringing/models/{model}', { params: { path: { model: model.name } } }))
      deleted.value = { name: model.caption, back: () => bringModelBack(model) }
    })
  }

  function bringModelBack(model: { name: string }): Promise<void> {
    return changing(async () => {
      await body(POST('/api/bringing/models/{model}/back', { params: { path: { model: model.name } } }))
      deleted.value = null
    })
  }

  function bringBack(entry: { id: string }): Promise<void> {
    return changing(async () => {
      await body(POST('/api/analyses/{id}/back', { params: { path: { id: entry.id } } }))
      deleted.value = null
    })
  }

  function removeFolder(folder: Folder): Promise<void> {
    return changing(async () => {
      await body(DELETE('/api/folders/{id}', { params: { path: { id: folder.id } } }))
      deleted.value = { name: folder.name, back: () => bringFolderBack(folder) }
    })
  }

  function bringFolderBack(folder: { id: string }): Promise<void> {
    return changing(async () => {
      await body(POST('/api/folders/{id}/back', { params: { path: { id: folder.id } } }))
      deleted.value = null
    })
  }

  /** Whether the person may put things into a folder; everybody may, outermost. */
  function canPut(id: string | null): boolean {
    const folder = library.value?.folders.find((each) => each.id === id)
    return id === null || folder?.may === 'change' || folder?.may === 'manage'
  }

  return {
    library,
    deleted,
    paths,
    load,
    doing,
    discard,
    putAway,
    turnFavourite,
    copy,
    remove,
    bringBack,
    removeFolder,
    bringFolderBack,
    removeModel,
    bringModelBack,
    canPut,
  }
})
