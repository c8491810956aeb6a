import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { POST, body } from '@/api/client'
import type { ShownMade, Thing } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import { measureThing } from '../things'

/** A measure that is being made, at the right of the table: what is pointed at meanwhile goes into its formula. */
export const useMaking = defineStore('making', () => {
  const workspace = useWorkspace()
  const problem = useProblem()
  const isOpen = ref(false)
  /** The made measure that is told anew; none while a new one is made. */
  const changed = shallowRef<ShownMade | null>(null)
  const begun = ref('')
  const insert = shallowRef<((text: string) => void) | null>(null)
  /** Each opening is a panel of its own. */
  const opening = ref(0)

  function open(made: ShownMade | null, text: string): void {
    changed.value = made
    begun.value = text
    opening.value += 1
    isOpen.value = true
  }

  /** Begins a new measure; with one that is made already, tells it anew. */
  async function begin(thing: Thing | null): Promise<void> {
    const made = workspace.shown?.made.find((each) => each.made.name === thing?.measure)
    if (made) return open(made, made.text)
    try {
      open(null, await beginningOf(thing))
    } catch (error) {
      problem.tell(error)
    }
  }

  function close(): void {
    isOpen.value = false
    changed.value = null
  }

  /** How a formula begins that is of a thing: of members, the first measure of the table only for them. */
  async function beginningOf(thing: Thing | null): Promise<string> {
    if (!thing) return ''
    const first = workspace.document?.question?.measures?.[0]
    const sliced =
      (thing.kind === 'member' || thing.kind === 'list') && first
        ? `${await nameOf(measureThing({ measure: first.measure }))} `
        : ''
    return sliced + (await nameOf(thing))
  }

  /** What a formula says of a thing that is pointed at. */
  async function nameOf(thing: Thing): Promise<string> {
    const document = workspace.document
    if (!document) return ''
    const path = { model: document.model }
    return (await body(POST('/api/models/{model}/formula/name', { params: { path }, body: { document, thing } }))).text
  }

  /** Puts a thing that is pointed at into the formula; false for one that no formula names. */
  function take(thing: Thing): boolean {
    if (!isOpen.value || !insert.value || !['measure', 'dimension', 'member', 'list'].includes(thing.kind)) return false
    nameOf(thing).then(
      (text) => insert.value?.(text),
      (error: unknown) => problem.tell(error),
    )
    return true
  }

  return { isOpen, changed, begun, opening, open, insert, begin, close, take }
})
