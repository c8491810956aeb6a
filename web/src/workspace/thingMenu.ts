import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import type { MemberPath, Offer, Thing } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useAsking } from './asking'
import { useLaying } from './laying/laying'
import { useListing } from './listing/listing'
import { useMaking } from './making/making'
import { useWorkspace } from './store'
import { offersFor } from './things'

/** Whose members are being picked, for which kind of filter. */
export interface Picking {
  dimension: string
  hierarchy: string
  action: 'keep' | 'leave_out' | null
  /** Where they go that are picked, where it is no filter; and those that are there already. */
  into?: (members: MemberPath[]) => void
  present?: readonly MemberPath[]
}

/** What a slip of its own edits. */
export type Editing = 'limit' | 'condition' | 'opening' | 'numbers' | 'joint'

/** A cell by its lines in the answer. */
export interface CellLines {
  row: number
  column: number
}

/** What is asked of records, which a frozen copy does not hold. */
const NEEDS_RECORDS = new Set(['records', 'paper', 'empty', 'formula', 'layout', 'list'])

/** The one menu of the workspace: everything that can be done with a thing, in the server's words. */
export const useThingMenu = defineStore('thing-menu', () => {
  const workspace = useWorkspace()
  const problem = useProblem()
  const asking = useAsking()
  const making = useMaking()
  const laying = useLaying()
  const listing = useListing()
  const thing = shallowRef<Thing | null>(null)
  const offers = shallowRef<Offer[]>([])
  const anchor = shallowRef<HTMLElement | null>(null)
  const isOpen = ref(false)
  /** The cell that the menu is about, by its lines, where it is about one. */
  const cell = shallowRef<CellLines | null>(null)
  /** The number that is being questioned, and what is shown of it first. */
  const questioned = shallowRef<{ cell: CellLines; view: 'records' | 'paper' | 'empty' } | null>(null)
  const picking = shallowRef<Picking | null>(null)
  /** A slip that a menu opened: what is being edited, of which thing. */
  const editing = shallowRef<{ what: Editing; thing: Thing } | null>(null)

  /** Opens the menu of a thing at an element. Where a number stands there too, what questions that one comes first. */
  async function open(
    wanted: Thing,
    element: HTMLElement,
    lines: CellLines | null = null,
    number: Thing | null = null,
  ): Promise<void> {
    const document = workspace.document
    if (!document) return
    if (making.isOpen && wanted.kind === 'cell') {
      cell.value = lines // what is being made is looked at there
      return
    }
    try {
      const [own, questions] = await Promise.all([
        offersFor(document, wanted),
        number ? offersFor(document, number) : [],
      ])
      offers.value = [...questions.filter((each) => each.asks), ...own].filter(
        (each) => !each.is_drop_only && !(workspace.frozen && NEEDS_RECORDS.has(each.asks ?? '')),
      )
    } catch (error) {
      problem.tell(error, () => open(wanted, element, lines, number))
      return
    }
    thing.value = wanted
    cell.value = lines
    anchor.value = element
    isOpen.value = true
  }

  function choose(offer: Offer): void {
    isOpen.value = false
    if (offer.gesture) void workspace.act(offer.gesture)
    else if (offer.asks === 'members' && thing.value) pick(thing.value)
    else if (offer.asks === 'prompts') asking.ask(offer.prompts)
    else if (offer.asks === 'records' || offer.asks === 'paper' || offer.asks === 'empty')
      question(cell.value, offer.asks)
    else if (offer.asks === 'formula') void making.begin(thing.value)
    else if (offer.asks === 'layout') void laying.begin(thing.value)
    else if (offer.asks === 'list') void listing.begin(thing.value)
    else if (offer.asks && offer.asks !== 'members' && thing.value)
      editing.value = { what: offer.asks, thing: thing.value }
  }

  /** Opens the member picker on a hierarchy; on a filter of it, where one is wanted: a hierarchy may have two. */
  function pick(wanted: Thing): void {
    const filter = workspace.document?.question?.filters?.[wanted.at ?? -1]
    picking.value = {
      dimension: wanted.dimension ?? '',
      hierarchy: wanted.hierarchy ?? '',
      action: filter?.action ?? null,
    }
  }

  /** Opens the member picker for something else than a filter. */
  function pickInto(wanted: Picking): void {
    picking.value = wanted
  }

  function question(lines: CellLines | null, view: 'records' | 'paper' | 'empty'): void {
    if (lines) questioned.value = { cell: lines, view }
  }

  function stopQuestioning(): void {
    questioned.value = null
  }

  function stopPicking(): void {
    picking.value = null
  }

  function edit(what: Editing, wanted: Thing): void {
    editing.value = { what, thing: wanted }
  }

  function stopEditing(): void {
    editing.value = null
  }

  return {
    thing,
    offers,
    anchor,
    isOpen,
    picking,
    editing,
    questioned,
    open,
    cell,
    question,
    stopQuestioning,
    choose,
    pick,
    pickInto,
    edit,
    stopPicking,
    stopEditing,
  }
})
