import { defineStore } from 'pinia'
import { computed, readonly, ref, shallowRef } from 'vue'
import { ApiError, DELETE, GET, POST, PUT, body } from '@/api/client'
import type {
  BenchLook,
  ColumnLook,
  ConditionsInWords,
  ModelGesture,
  ModelOffer,
  Relationship,
  ShapedModel,
  TableLook,
  TieLook,
} from '@/api/types'
import { useProblem } from '@/shell/problem'
import { branchInSight, branchesOf, nextOf, pathTo } from '@/workspace/trail/tree'
import { useWaiting } from '@/workspace/waiting'

/** What is looked at beside the room. */
export type Chosen =
  | { kind: 'table'; table: string }
  | { kind: 'column'; table: string; column: string }
  | { kind: 'tie'; table: string; role: string }
  | { kind: 'dimension'; name: string }
  | { kind: 'measure'; name: string }

/** The model that is being changed: its draft, what is seen of its tables, and what is looked at. */
export const useShaping = defineStore('shaping', () => {
  const problem = useProblem()
  const { waiting, follow, takeBack } = useWaiting()
  const shaped = shallowRef<ShapedModel | null>(null)
  const bench = shallowRef<BenchLook | null>(null)
  /** Why the tables could not be looked at. */
  const benchTrouble = ref('')
  const chosen = shallowRef<Chosen | null>(null)
  const isBusy = ref(false)
  /** Rises with each step that is shown: whatever asks the draft asks anew. */
  const turn = ref(0)
  const visited = new Map<string | null, string>()
  /** What conditions keep, in words: of filters, roles and measures, by their names. */
  const told = shallowRef<ConditionsInWords | null>(null)
  let looking = 0

  const model = computed(() => shaped.value?.model ?? null)
  const steps = computed(() => shaped.value?.steps ?? [])
  const shown = computed(() => shaped.value?.shown ?? null)
  const trail = computed(() => branchInSight(steps.value, shown.value, visited))
  const canUndo = computed(() => shown.value !== null)
  const canRedo = computed(() => nextOf(steps.value, shown.value, visited) !== undefined)
  const path = computed(() => ({ model: shaped.value?.model.name ?? '' }))
  const looks = computed(() => new Map((bench.value?.tables ?? []).map((each) => [each.name, each])))

  /** Opens a model. Throws an ApiError where it is not theirs to change, or cannot be read. */
  async function open(name: string): Promise<void> {
    if (shaped.value?.model.name !== name) {
      shaped.value = null
      bench.value = null
      chosen.value = null
      told.value = null
      visited.clear()
    }
    put(await body(GET('/api/modelling/{model}', { params: { path: { model: name } } })))
    await look()
  }

  function put(found: ShapedModel): void {
    shaped.value = found
    for (const each of pathTo(found.steps, found.shown)) visited.set(each.parent, each.id)
    turn.value += 1
  }

  /** Looks at the tables as the draft reads them now. */
  async function look(): Promise<void> {
    const mine = (looking += 1)
    try {
      const found = await follow(
        (question) => body(GET('/api/modelling/{model}/tables', { params: { path: path.value, query: { question } } })),
        'Looking at the tables',
      )
      if (mine !== looking) return
      bench.value = found
      benchTrouble.value = ''
    } catch (error) {
      if (!(error instanceof ApiError)) throw error
      if (mine === looking) benchTrouble.value = `${error.message} ${error.hint}`
    }
  }

  /** Puts the conditions of the draft into words, as far as it can be asked. */
  async function tell(): Promise<void> {
    const mine = turn.value
    const found = await GET('/api/modelling/{model}/conditions', { params: { path: path.value } })
    if (mine === turn.value) told.value = found.data ?? null
  }

  /** Takes a step; false where it could not be, which has been told. */
  async function act(gesture: ModelGesture, formula: string | null = null): Promise<boolean> {
    return change(() =>
      body(
        POST('/api/modelling/{model}/steps', {
          params: { path: path.value },
          body: { gesture, shown: shown.value, formula },
        }),
      ),
    )
  }

  async function change(send: () => Promise<ShapedModel>): Promise<boolean> {
    isBusy.value = true
    try {
      put(await send())
      void look()
      return true
    } catch (error) {
      problem.tell(error)
      if (error instanceof ApiError && error.status === 409)
        put(await body(GET('/api/modelling/{model}', { params: { path: path.value } })))
      return false
    } finally {
      isBusy.value = false
    }
  }

  async function goTo(step: string | null): Promise<void> {
    await change(() => body(PUT('/api/modelling/{model}/shown', { params: { path: path.value }, body: { step } })))
  }

  async function undo(): Promise<void> {
    const here = steps.value.find((each) => each.id === shown.value)
    if (here) await goTo(here.parent)
  }

  async function redo(): Promise<void> {
    const next = nextOf(steps.value, shown.value, visited)
    if (next) await goTo(next.id)
  }

  async function discard(): Promise<void> {
    await change(() => body(DELETE('/api/modelling/{model}/draft', { params: { path: path.value } })))
  }

  /** Offers something no more; without one, all that was refused is offered again. */
  async function refuse(offer: ModelOffer | null): Promise<void> {
    try {
      await body(
        POST('/api/modelling/{model}/offers/refused', {
          params: { path: path.value },
          body: { key: offer?.key ?? null },
        }),
      )
      await look()
    } catch (error) {
      problem.tell(error)
    }
  }

  /** Takes several offers, one step each, until one cannot be. */
  async function takeAll(offers: readonly ModelOffer[]): Promise<void> {
    for (const each of offers) if (!(await act(each.gesture))) return
  }

  function tableLook(name: string): TableLook | undefined {
    return looks.value.get(name)
  }

  function columnLook(table: string, column: string): ColumnLook | undefined {
    return looks.value.get(table)?.columns.find((each) => each.name === column)
  }

  function tieLook(tie: { from_table: string; role: string }): TieLook | undefined {
    return bench.value?.ties.find((each) => each.from_table === tie.from_table && each.role === tie.role)
  }

  function tieOf(table: string, column: string): Relationship | undefined {
    return model.value?.relationships?.find((each) => each.from_table === table && each.from_column === column)
  }

  /** Whether other ways on were taken from a step. */
  function others(step: string): number {
    return branchesOf(steps.value, step).length - 1
  }

  function choose(thing: Chosen | null): void {
    chosen.value = thing
  }

  return {
    shaped: computed(() => shaped.value),
    bench: computed(() => bench.value),
    chosen: computed(() => chosen.value),
    told: computed(() => told.value),
    benchTrouble,
    model,
    steps,
    shown,
    trail,
    canUndo,
    canRedo,
    isBusy: readonly(isBusy),
    waiting,
    turn: readonly(turn),
    path,
    open,
    act,
    change,
    goTo,
    undo,
    redo,
    discard,
    refuse,
    takeAll,
    look,
    takeBack,
    choose,
    put,
    tell,
    follow,
    tableLook,
    columnLook,
    tieLook,
    tieOf,
    others,
  }
})
