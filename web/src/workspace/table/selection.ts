import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import type { MemberHeader, Offer, Thing } from '@/api/types'
import { useWorkspace } from '../store'
import { memberThing, offersFor } from '../things'

interface Selected {
  axis: 'rows' | 'columns'
  line: number
  member: MemberHeader
  chain: MemberHeader[]
}

/** The headers that are selected, all of one hierarchy, and what can be done with them. */
export const useSelection = defineStore('selection', () => {
  const workspace = useWorkspace()
  const selected = shallowRef<Selected[]>([])
  const offers = shallowRef<Offer[]>([])
  const anchor = shallowRef<Selected | null>(null)
  const keys = computed(() => new Set(selected.value.map((each) => keyOf(each.axis, each.member))))
  const captions = computed(() => [...new Set(selected.value.map((each) => each.member.caption))])

  function keyOf(axis: string, member: MemberHeader): string {
    return JSON.stringify([axis, member.dimension, member.hierarchy, member.path, member.is_others])
  }

  function isSelected(axis: 'rows' | 'columns', member: MemberHeader | null | undefined): boolean {
    return !!member && keys.value.has(keyOf(axis, member))
  }

  /** Adds one, or takes it back. One of another hierarchy begins anew. */
  function turn(wanted: Selected): void {
    const first = selected.value[0]
    const isSame =
      first?.axis === wanted.axis &&
      first.member.dimension === wanted.member.dimension &&
      first.member.hierarchy === wanted.member.hierarchy
    const before = isSame ? selected.value : []
    const key = keyOf(wanted.axis, wanted.member)
    const others = before.filter((each) => keyOf(each.axis, each.member) !== key)
    anchor.value = wanted
    set(others.length < before.length ? others : [...before, wanted])
  }

  /** Selects from the last one turned to this one: those of the same level between. */
  function reach(wanted: Selected, between: readonly Selected[]): void {
    const from = anchor.value
    if (!from || from.axis !== wanted.axis || from.member.level !== wanted.member.level) {
      turn(wanted)
      return
    }
    set(
      between.filter(
        (each) => each.member.level === wanted.member.level && each.member.hierarchy === wanted.member.hierarchy,
      ),
    )
  }

  function set(wanted: Selected[]): void {
    selected.value = wanted
    offers.value = []
    void ask()
  }

  function clear(): void {
    if (selected.value.length) set([])
  }

  function thing(): Thing | null {
    const [first, ...others] = selected.value
    return first
      ? memberThing(
          first.member,
          first.chain,
          first.axis,
          others.map((each) => each.member.path),
        )
      : null
  }

  async function ask(): Promise<void> {
    const wanted = thing()
    const document = workspace.document
    const asked = selected.value
    if (!wanted || !document) return
    const found = await offersFor(document, wanted).catch(() => [])
    if (selected.value === asked) offers.value = found
  }

  function choose(offer: Offer): void {
    if (offer.gesture) void workspace.act(offer.gesture)
    clear()
  }

  return { selected, captions, offers, anchor, isSelected, turn, reach, clear, choose, thing }
})
