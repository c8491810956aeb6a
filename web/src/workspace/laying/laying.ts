import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { POST, body } from '@/api/client'
import type { DraftedLayout, Thing } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'

/** A financial layout that is being made, at the right of the table. */
export const useLaying = defineStore('laying', () => {
  const workspace = useWorkspace()
  const problem = useProblem()
  const isOpen = ref(false)
  const begun = shallowRef<DraftedLayout | null>(null)
  /** Each opening is a panel of its own. */
  const opening = ref(0)

  /** Begins with what a hierarchy suggests, a copy of the model's layout, or one that was made here. */
  async function begin(thing: Thing | null): Promise<void> {
    const document = workspace.document
    if (!document || !thing?.dimension || !thing.hierarchy) return
    const path = { model: document.model }
    try {
      begun.value = await body(POST('/api/models/{model}/layouts/begin', { params: { path }, body: { document, dimension: thing.dimension, hierarchy: thing.hierarchy } }))
      opening.value += 1
      isOpen.value = true
    } catch (error) {
      problem.tell(error)
    }
  }

  function close(): void {
    isOpen.value = false
    begun.value = null
  }

  return { isOpen, begun, opening, begin, close }
})
