import { defineStore } from 'pinia'
import { readonly, shallowRef } from 'vue'
import { ApiError } from '@/api/client'
import { router } from './router'

/** Codes of what went wrong on the way, and may go well the next time. */
const ON_THE_WAY = ['offline', 'unreadable']

/** The one notice of what could not be done, shown at the foot of the screen until it is put away. */
export const useProblem = defineStore('problem', () => {
  const problem = shallowRef<ApiError | null>(null)
  /** Each does once more what did not get through; none where that would be refused again. */
  const again = shallowRef<readonly (() => unknown)[]>([])

  function tell(error: unknown, retry: (() => unknown) | null = null): void {
    if (!(error instanceof ApiError)) throw error
    if (error.code === 'signed-out')
      void router.push({ name: 'sign-in', query: { to: router.currentRoute.value.fullPath } })
    else {
      problem.value = error
      again.value = ON_THE_WAY.includes(error.code) && retry ? [...again.value, retry] : []
    }
  }

  function clear(): void {
    problem.value = null
    again.value = []
  }

  function tryAgain(): void {
    const retries = again.value
    clear()
    for (const retry of retries) void retry()
  }

  return { problem: readonly(problem), again: readonly(again), tell, clear, tryAgain }
})
