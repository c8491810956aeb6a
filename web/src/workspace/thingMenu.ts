import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import type { Offer, Thing } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useAsking } from './asking'
import { useWorkspace } from './store'
import { offersFor } from './things'

/** Whose members are being picked, for which kind of filter. */
export interface Picking {
  dimension: string
  hierarchy: string
  action: 'keep' | 'leave_out' | null
}

/** The one menu of the workspace: everything that can be done with a thing, in the server's words. */
export const useThingMenu = defineStore('thing-menu', () => {
  const workspace = useWorkspace()
  const problem = useProblem()
  const asking = useAsking()
  const thing = shallowRef<Thing | null>(null)
  const offers = shallowRef<Offer[]>([])
  const anchor = shallowRef<HTMLElement | null>(null)
  const isOpen = ref(false)
  const picking = shallowRef<Picking | null>(null)
  /** A slip that a menu opened: what is being edited, of which thing. */
  const editing = shallowRef<{ what: 'limit' | 'condition' | 'opening'; thing: Thing } | null>(null)

  async function open(wanted: Thing, element: HTMLElement): Promise<void> {
    const document = workspace.document
    if (!document) return
    try {
      offers.value = await offersFor(document, wanted)
    } catch (error) {
      problem.tell(error)
      return
    }
    thing.value = wanted
    anchor.value = element
    isOpen.value = true
  }

  function choose(offer: Offer): void {
    isOpen.value = false
    if (offer.gesture) void workspace.act(offer.gesture)
    else if (offer.asks === 'members' && thing.value) pick(thing.value)
    else if (offer.asks === 'prompts') asking.ask(offer.prompts)
    else if (offer.asks && offer.asks !== 'members' && thing.value) editing.value = { what: offer.asks, thing: thing.value }
  }

  /** Opens the member picker on a hierarchy; on its filter of one kind, where it has both. */
  function pick(wanted: Thing, action?: 'keep' | 'leave_out' | null): void {
    picking.value = { dimension: wanted.dimension ?? '', hierarchy: wanted.hierarchy ?? '', action: action ?? null }
  }

  function stopPicking(): void {
    picking.value = null
  }

  function edit(what: 'limit' | 'condition' | 'opening', wanted: Thing): void {
    editing.value = { what, thing: wanted }
  }

  function stopEditing(): void {
    editing.value = null
  }

  return { thing, offers, anchor, isOpen, picking, editing, open, choose, pick, edit, stopPicking, stopEditing }
})
