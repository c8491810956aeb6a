import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { POST, body } from '@/api/client'
import type { DraftedList, Thing } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'

/** A list of members that is being made, at the right of the table. */
export const useListing = defineStore('listing', () => {
  const workspace = useWorkspace()
  const problem = useProblem()
  const isOpen = ref(false)
  const begun = shallowRef<DraftedList | null>(null)
  /** Each opening is a panel of its own. */
  const opening = ref(0)

  /** Begins with members that are meant, with what a hierarchy's limit shows, or with a list that is there. */
  async function begin(thing: Thing | null): Promise<void> {
    const document = workspace.document
    if (!document || !thing) return
    const path = { model: document.model }
    try {
      begun.value = await body(POST('/api/models/{model}/lists/begin', { params: { path }, body: { document, thing } }))
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
