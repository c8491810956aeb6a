import { ref, shallowRef } from 'vue'
import type { Analysis, Thing } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from './store'

/** Something that is made at the right of the table. `ask` gives what it begins with; nothing for a thing that it cannot be of. */
export function usePanel<Begun>(ask: (document: Analysis, thing: Thing) => Promise<Begun> | null) {
  const workspace = useWorkspace()
  const problem = useProblem()
  const isOpen = ref(false)
  const begun = shallowRef<Begun | null>(null)
  /** Each opening is a panel of its own. */
  const opening = ref(0)

  async function begin(thing: Thing | null): Promise<void> {
    const asked = workspace.document && thing ? ask(workspace.document, thing) : null
    if (!asked) return
    try {
      begun.value = await asked
      opening.value += 1
      isOpen.value = true
    } catch (error) {
      problem.tell(error, () => begin(thing))
    }
  }

  function close(): void {
    isOpen.value = false
    begun.value = null
  }

  return { isOpen, begun, opening, begin, close }
}
