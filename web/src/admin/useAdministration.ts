import { onMounted, shallowRef } from 'vue'
import { GET, body } from '@/api/client'
import type { Administration } from '@/api/types'
import { useProblem } from '@/shell/problem'

/** Everything about who may do what, and a way to change it that looks again afterwards. */
export function useAdministration() {
  const problem = useProblem()
  const all = shallowRef<Administration | null>(null)

  async function load(): Promise<void> {
    all.value = await body(GET('/api/administration'))
  }

  /** Makes a change and looks again; tells what could not be done. */
  async function change<T>(work: () => Promise<T>): Promise<T | null> {
    try {
      const found = await work()
      await load()
      return found
    } catch (error) {
      problem.tell(error)
      return null
    }
  }

  onMounted(() => load().catch(problem.tell))
  return { all, change }
}
