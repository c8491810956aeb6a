import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { DELETE, GET, POST, PUT, body } from '@/api/client'
import type { Comment } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import type { CellLines } from '../thingMenu'

/** What is said of the open analysis and of its numbers, and where these stand in the table. */
export const useSaying = defineStore('saying', () => {
  const workspace = useWorkspace()
  const problem = useProblem()
  const comments = shallowRef<Comment[]>([])
  const isOpen = ref(false)
  /** The number that something is being said of; the whole analysis without. */
  const about = shallowRef<CellLines | null>(null)
  /** The number that the table is to show. */
  const wanted = shallowRef<CellLines | null>(null)
  const id = computed(() => workspace.draft?.analysis?.id ?? '')
  const handle = computed(() => workspace.answered?.answered?.handle)
  const places = computed(
    () =>
      new Set(
        comments.value.filter((each) => each.cell?.row != null).map((each) => `${each.cell!.row} ${each.cell!.column}`),
      ),
  )

  async function load(): Promise<void> {
    const mine = id.value
    if (!mine) {
      comments.value = []
      return
    }
    const found = await body(
      GET('/api/analyses/{id}/comments', { params: { path: { id: mine }, query: { handle: handle.value } } }),
    )
    if (mine === id.value) comments.value = found
  }

  // Where cells stand is told anew with each answer, if anything is said of one.
  watch([id, handle], async ([now], [before]) => {
    if (now !== before) isOpen.value = false
    if (now !== before || comments.value.some((each) => each.cell)) await load().catch(() => (comments.value = []))
  })

  function isSaid(row: number, column: number): boolean {
    return places.value.has(`${row} ${column}`)
  }

  /** Opens what is said; of a number, to say something of it. */
  function open(cell: CellLines | null = null): void {
    about.value = cell
    isOpen.value = true
    void doing(async () => {
      await load()
      await body(PUT('/api/analyses/{id}/comments/read', { params: { path: { id: id.value } } }))
    })
  }

  async function doing(act: () => Promise<unknown>): Promise<boolean> {
    try {
      await act()
      return true
    } catch (error) {
      problem.tell(error)
      return false
    }
  }

  function say(text: string, mentions: string[]): Promise<boolean> {
    const cell = about.value ? { handle: handle.value ?? null, ...about.value } : { handle: null, row: 0, column: 0 }
    return doing(async () => {
      comments.value = await body(
        POST('/api/analyses/{id}/comments', { params: { path: { id: id.value } }, body: { text, mentions, ...cell } }),
      )
      about.value = null
      await load()
    })
  }

  function remove(comment: string): Promise<boolean> {
    return doing(async () => {
      await body(DELETE('/api/analyses/{id}/comments/{comment}', { params: { path: { id: id.value, comment } } }))
      await load()
    })
  }

  return { comments, isOpen, about, wanted, places, isSaid, open, say, remove }
})
