import { defineStore } from 'pinia'
import { readonly, shallowRef } from 'vue'
import { ApiError } from '@/api/client'
import { router } from './router'

/** The one notice of what could not be done, shown at the foot of the screen until it is put away. */
export const useProblem = defineStore('problem', () => {
  const problem = shallowRef<ApiError | null>(null)

  function tell(error: unknown): void {
    if (!(error instanceof ApiError)) throw error
    if (error.code === 'signed-out') void router.push({ name: 'sign-in', query: { to: router.currentRoute.value.fullPath } })
    else problem.value = error
  }

  function clear(): void {
    problem.value = null
  }

  return { problem: readonly(problem), tell, clear }
})
