import { ref, shallowRef } from 'vue'
import { ApiError, GET, PUT, body } from '@/api/client'
import type { Step } from '../trail/tree'

/** How long until steps that could not be kept are sent again. */
const AGAIN_MS = 5_000
const keyOf = (draft: string) => `dastan-unkept-${draft}`

/**
 * Steps that are not known to be on the server's disk. Each is asked after as soon as it was answered; what could not be
 * kept stays here, through a closed browser too, and is sent again until it is.
 */
export function useKept(shownStep: () => string) {
  const unkept = shallowRef<Step[]>([])
  const trouble = shallowRef<ApiError | null>(null)
  const keptAt = ref('')
  let draft = ''
  let timer = 0

  function hold(steps: Step[]): void {
    unkept.value = steps
    try {
      if (steps.length) localStorage.setItem(keyOf(draft), JSON.stringify(steps))
      else localStorage.removeItem(keyOf(draft))
    } catch {
      // No room there: they are held by this page alone.
    }
  }

  /** Takes up what this browser still holds of a draft; returns the steps that the server does not have. */
  function resume(id: string, known: readonly Step[], at: string): Step[] {
    window.clearTimeout(timer)
    draft = id
    trouble.value = null
    keptAt.value = at
    let held: Step[] = []
    try {
      held = JSON.parse(localStorage.getItem(keyOf(id)) ?? '[]') as Step[]
    } catch {
      held = []
    }
    const ids = new Set(known.map((step) => step.id))
    hold(held.filter((step) => !ids.has(step.id)))
    if (unkept.value.length) void sendAgain()
    return unkept.value
  }

  /** Asks after a step that was just answered. */
  async function follow(step: Step): Promise<void> {
    const mine = draft
    hold([...unkept.value, step])
    try {
      await body(GET('/api/drafts/{id}/steps/{step_id}/kept', { params: { path: { id: mine, step_id: step.id } } }))
      if (mine !== draft) return
      hold(unkept.value.filter((each) => each.id !== step.id))
      noteKept()
    } catch (error) {
      if (mine === draft) tell(error)
    }
  }

  function noteKept(): void {
    keptAt.value = new Date().toISOString()
    if (!unkept.value.length) trouble.value = null
  }

  function tell(error: unknown): void {
    if (!(error instanceof ApiError)) throw error
    trouble.value = error
    window.clearTimeout(timer)
    timer = window.setTimeout(() => void sendAgain(), AGAIN_MS)
  }

  async function sendAgain(): Promise<void> {
    const mine = draft
    const sent = unkept.value
    window.clearTimeout(timer)
    if (!sent.length) return
    try {
      const steps = sent.map(({ id, parent, words, document }) => ({ id, parent, words, document }))
      const shown = sent.some((step) => step.id === shownStep()) ? shownStep() : sent.at(-1)!.id
      await body(PUT('/api/drafts/{id}/trail', { params: { path: { id: mine } }, body: { steps, shown } }))
      if (mine !== draft) return
      const ids = new Set(sent.map((step) => step.id))
      hold(unkept.value.filter((step) => !ids.has(step.id)))
      noteKept()
    } catch (error) {
      if (mine === draft) tell(error)
    }
  }

  return { unkept, trouble, keptAt, resume, follow, sendAgain }
}
