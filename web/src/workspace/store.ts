import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { ApiError, GET, POST, body } from '@/api/client'
import type { Analysis, Catalogue, Gesture, OpenDraft, Shown } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWaiting } from './waiting'

interface Step {
  words: string
  document: Analysis
}

/** The open report: its document, its trail, and what the server showed of it last. Nothing is derived here. */
export const useWorkspace = defineStore('workspace', () => {
  const problem = useProblem()
  const draft = shallowRef<OpenDraft | null>(null)
  const catalogue = shallowRef<Catalogue | null>(null)
  const steps = shallowRef<Step[]>([])
  const position = ref(0)
  const savedPosition = ref<number | null>(null)
  const shown = shallowRef<Shown | null>(null)
  const missing = ref('')
  const unanswered = ref<string[]>([])
  const { waiting, follow, takeBack } = useWaiting()
  const roundTripMs = ref(0)
  const keptAt = ref('')
  // Each request carries the revision it was sent at; an answer to an older one is dropped.
  let revision = 0
  let queue: Promise<void> = Promise.resolve()

  const document = computed(() => steps.value[position.value]?.document ?? null)
  const canUndo = computed(() => position.value > 0)
  const canRedo = computed(() => position.value < steps.value.length - 1)
  const isSaved = computed(() => savedPosition.value === position.value)

  async function open(id: string): Promise<void> {
    const mine = ++revision
    shown.value = null
    const found = await body(GET('/api/drafts/{id}', { params: { path: { id } } }))
    const models = await body(GET('/api/models/{model}/catalogue', { params: { path: { model: found.model } } }))
    if (mine !== revision) return
    draft.value = found
    catalogue.value = models
    steps.value = found.steps
    position.value = found.position
    savedPosition.value = found.saved_position
    keptAt.value = found.updated_at
    await goTo(found.position)
  }

  /** Does one thing after the other, so that quick hands never lose a step. */
  function enqueue(task: () => Promise<void>): Promise<void> {
    queue = queue.then(task).catch((error: unknown) => {
      // A question that was taken back leaves everything as it was, and there is nothing to tell.
      if (!(error instanceof ApiError) || error.code !== 'cancelled') problem.tell(error)
    })
    return queue
  }

  function act(gesture: Gesture): Promise<void> {
    return enqueue(async () => {
      if (!draft.value || !document.value) return
      const mine = ++revision
      const started = performance.now()
      const asked = { number: position.value, document: document.value, gesture }
      const path = { id: draft.value.id }
      const answer = await follow((question) =>
        body(POST('/api/drafts/{id}/steps', { params: { path, query: { question } }, body: asked })),
      )
      steps.value = [...steps.value.slice(0, position.value + 1), { words: answer.words, document: answer.document }]
      if (savedPosition.value !== null && savedPosition.value > position.value) savedPosition.value = null
      position.value += 1
      if (mine === revision) take(answer, started)
    })
  }

  function goTo(number: number): Promise<void> {
    return enqueue(async () => {
      const step = steps.value[number]
      if (!draft.value || !step) return
      const mine = ++revision
      const started = performance.now()
      try {
        const asked = { number, document: step.document }
        const path = { id: draft.value.id }
        const answer = await follow((question) =>
          body(POST('/api/drafts/{id}/position', { params: { path, query: { question } }, body: asked })),
        )
        position.value = number
        if (mine === revision) take(answer, started)
      } catch (error) {
        const code = error instanceof ApiError ? error.code : ''
        missing.value = code === 'missing-name' ? (error as ApiError).message : ''
        unanswered.value = code === 'prompt-unanswered' ? [String((error as ApiError).details.prompt)] : []
        if (!missing.value && !unanswered.value.length) throw error
        position.value = number
        shown.value = null
      }
    })
  }

  function take(answer: Shown, started: number): void {
    shown.value = answer
    missing.value = ''
    unanswered.value = []
    roundTripMs.value = performance.now() - started
    keptAt.value = new Date().toISOString()
  }

  function undo(): Promise<void> {
    return canUndo.value ? goTo(position.value - 1) : Promise.resolve()
  }

  function redo(): Promise<void> {
    return canRedo.value ? goTo(position.value + 1) : Promise.resolve()
  }

  /** Remembers that the present step is what the analysis holds. */
  function noteSaved(analysis: OpenDraft['analysis'], at: number): void {
    if (!draft.value) return
    draft.value = { ...draft.value, analysis }
    savedPosition.value = at
  }

  return {
    draft, catalogue, steps, position, shown, missing, unanswered, waiting, takeBack, roundTripMs, keptAt, document, canUndo, canRedo, isSaved,
    open, act, goTo, undo, redo, noteSaved,
  }
})
