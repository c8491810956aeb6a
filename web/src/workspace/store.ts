import { useStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowReactive, shallowRef } from 'vue'
import { ApiError, GET, POST, PUT, body } from '@/api/client'
import type { Catalogue, Gesture, OpenDraft, Shown } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useKept } from './keeping/useKept'
import { branchInSight, nextOf, pathTo, type Step } from './trail/tree'
import { useWaiting } from './waiting'

/** An id that no other step has. */
function newStep(): string {
  return `${Date.now().toString(36)}-${Math.random().toString(36).slice(2, 10)}`
}

/** The open report: its document, its trail, and what the server showed of it last. Nothing is derived here. */
export const useWorkspace = defineStore('workspace', () => {
  const problem = useProblem()
  const draft = shallowRef<OpenDraft | null>(null)
  const catalogue = shallowRef<Catalogue | null>(null)
  const steps = shallowRef<Step[]>([])
  const shownStep = ref('')
  const savedStep = ref<string | null>(null)
  const visited = shallowReactive(new Map<string, string>())
  /** The present document in words; the last answer, which on request may be to an earlier document. */
  const shown = shallowRef<Shown | null>(null)
  const answered = shallowRef<Shown | null>(null)
  const answeredStep = ref('')
  /** Steps that are on their way: what the screen shows is older than what was done. */
  const underWay = ref(0)
  const isOnRequest = useStorage('dastan-on-request', false)
  const unanswered = ref<string[]>([])
  const { waiting, follow, takeBack } = useWaiting()
  const roundTripMs = ref(0)
  const { unkept, trouble, keptAt, resume, follow: followStep, sendAgain } = useKept(() => shownStep.value)
  // Each request carries the revision it was sent at; an answer to an older one is dropped.
  let revision = 0
  let queue: Promise<void> = Promise.resolve()

  const trail = computed(() => branchInSight(steps.value, shownStep.value, visited))
  const way = computed(() => pathTo(steps.value, shownStep.value))
  const document = computed(() => way.value.at(-1)?.document ?? null)
  const canUndo = computed(() => way.value.length > 1)
  const canRedo = computed(() => trail.value.length > way.value.length)
  const isSaved = computed(() => savedStep.value === shownStep.value)
  /** Whether it may be rearranged; an analysis that one may only look at is gone down in, and no more. */
  const frozen = computed(() => draft.value?.analysis?.frozen ?? null)
  const mayExplore = computed(() => !frozen.value && draft.value?.analysis?.may !== 'see')
  /** Whether what stands there may be turned and dressed: frozen numbers by everybody who sees them. */
  const mayTurn = computed(() => mayExplore.value || !!frozen.value)
  const isBehind = computed(() => shown.value !== null && answeredStep.value !== shownStep.value && !underWay.value)
  /** On request: the steps that have been arranged and not yet asked. */
  const queued = computed(() => {
    if (!isBehind.value) return new Set<string>()
    const at = way.value.findIndex((step) => step.id === answeredStep.value)
    return new Set(way.value.slice(Math.max(at + 1, 1)).map((step) => step.id))
  })

  async function open(id: string): Promise<void> {
    const mine = ++revision
    shown.value = null
    answered.value = null
    answeredStep.value = ''
    visited.clear()
    const found = await body(GET('/api/drafts/{id}', { params: { path: { id } } }))
    const models = await body(GET('/api/models/{model}/catalogue', { params: { path: { model: found.model } } }))
    if (mine !== revision) return
    draft.value = found
    catalogue.value = models
    const held = resume(id, found.steps, found.updated_at)
    steps.value = [...found.steps, ...held]
    shownStep.value = held.at(-1)?.id ?? found.shown_step
    savedStep.value = found.saved_step
    await goTo(shownStep.value)
  }

  /** Does one thing after the other, so that quick hands never lose a step. */
  function enqueue(task: () => Promise<void>): Promise<void> {
    underWay.value += 1
    queue = queue
      .then(task)
      .catch((error: unknown) => {
        // A question that was taken back leaves everything as it was, and there is nothing to tell.
        if (!(error instanceof ApiError) || error.code !== 'cancelled') problem.tell(error, () => enqueue(task))
      })
      .finally(() => (underWay.value -= 1))
    return queue
  }

  function act(gesture: Gesture): Promise<void> {
    return enqueue(async () => {
      if (!draft.value || !document.value) return
      const mine = ++revision
      const started = performance.now()
      const parent = shownStep.value
      const wasBehind = answeredStep.value !== parent
      const id = newStep()
      const asked = {
        id,
        parent,
        document: document.value,
        gesture,
        is_asked: !isOnRequest.value,
        was_answered: !wasBehind,
      }
      const path = { id: draft.value.id }
      const answer = await follow((question) =>
        body(POST('/api/drafts/{id}/steps', { params: { path, query: { question } }, body: asked })),
      )
      took(answer, id, parent)
      if (mine === revision) take(answer, started)
    })
  }

  /** Takes a step to the analysis as one of its versions was saved. */
  function showVersion(number: number): Promise<void> {
    return enqueue(async () => {
      if (!draft.value) return
      const mine = ++revision
      const started = performance.now()
      const parent = shownStep.value
      const id = newStep()
      const answer = await follow((question) =>
        body(
          POST('/api/drafts/{id}/versions/{number}', {
            params: { path: { id: draft.value!.id, number }, query: { question } },
            body: { id, parent, is_asked: !isOnRequest.value },
          }),
        ),
      )
      took(answer, id, parent)
      if (mine === revision) take(answer, started)
    })
  }

  /** Puts a step on the trail that was answered. */
  function took(answer: Shown, id: string, parent: string): void {
    const taken = { id, parent, words: answer.words, name: '', document: answer.document }
    steps.value = [...steps.value, taken]
    void followStep(taken)
    visited.set(parent, id)
    shownStep.value = id
  }

  function goTo(id: string, isAsked = !isOnRequest.value): Promise<void> {
    return enqueue(async () => {
      const step = steps.value.find((each) => each.id === id)
      if (!draft.value || !step) return
      const mine = ++revision
      const started = performance.now()
      try {
        const asked = { step: id, document: step.document, is_asked: isAsked }
        const path = { id: draft.value.id }
        const answer = await follow((question) =>
          body(POST('/api/drafts/{id}/position', { params: { path, query: { question } }, body: asked })),
        )
        show(id)
        if (mine === revision) take(answer, started)
      } catch (error) {
        const code = error instanceof ApiError ? error.code : ''
        unanswered.value = code === 'prompt-unanswered' ? [String((error as ApiError).details.prompt)] : []
        if (!unanswered.value.length) throw error
        show(id)
        shown.value = null
      }
    })
  }

  function show(id: string): void {
    shownStep.value = id
    for (const step of way.value) if (step.parent !== null) visited.set(step.parent, step.id)
  }

  function take(answer: Shown, started: number): void {
    shown.value = answer
    if (answer.answered) {
      answered.value = answer
      answeredStep.value = shownStep.value
      roundTripMs.value = performance.now() - started
    }
    unanswered.value = []
  }

  /** Asks what has been arranged. */
  function run(): Promise<void> {
    return goTo(shownStep.value, true)
  }

  /** Turns between answering every step at once and only on request. */
  function turnOnRequest(): void {
    isOnRequest.value = !isOnRequest.value
    if (!isOnRequest.value && isBehind.value) void run()
  }

  function undo(): Promise<void> {
    const parent = way.value.at(-2)
    return parent ? goTo(parent.id) : Promise.resolve()
  }

  function redo(): Promise<void> {
    const next = nextOf(steps.value, shownStep.value, visited)
    return next ? goTo(next.id) : Promise.resolve()
  }

  async function nameStep(id: string, name: string): Promise<void> {
    if (!draft.value) return
    try {
      await body(
        PUT('/api/drafts/{id}/steps/{step_id}/name', {
          params: { path: { id: draft.value.id, step_id: id } },
          body: { name },
        }),
      )
      steps.value = steps.value.map((step) => (step.id === id ? { ...step, name: name.trim() } : step))
    } catch (error) {
      problem.tell(error)
    }
  }

  /** Remembers that a step is what the analysis holds. */
  function noteSaved(analysis: OpenDraft['analysis'], at: string): void {
    if (!draft.value) return
    draft.value = { ...draft.value, analysis }
    savedStep.value = at
  }

  return {
    draft,
    catalogue,
    steps,
    trail,
    way,
    shownStep,
    shown,
    answered,
    isOnRequest,
    isBehind,
    queued,
    unanswered,
    waiting,
    takeBack,
    roundTripMs,
    keptAt,
    unkept,
    trouble,
    sendAgain,
    underWay,
    document,
    canUndo,
    canRedo,
    isSaved,
    frozen,
    mayExplore,
    mayTurn,
    open,
    act,
    showVersion,
    goTo,
    run,
    turnOnRequest,
    undo,
    redo,
    nameStep,
    noteSaved,
  }
})
