import type { Analysis } from '@/api/types'

export interface Step {
  id: string
  parent: string | null
  words: string
  name: string
  document: Analysis
}

interface Linked {
  id: string
  parent: string | null
}

/** The steps from the first one to `id`; none to what was there before any. */
export function pathTo<S extends Linked>(steps: readonly S[], id: string | null): S[] {
  const byId = new Map(steps.map((step) => [step.id, step]))
  const found: S[] = []
  for (
    let step = id === null ? undefined : byId.get(id);
    step;
    step = step.parent === null ? undefined : byId.get(step.parent)
  )
    found.unshift(step)
  return found
}

/** The steps taken from one, in the order in which they were taken. */
export function branchesOf<S extends Linked>(steps: readonly S[], id: string | null): S[] {
  return steps.filter((step) => step.parent === id)
}

/** The step that redo goes to: the last one taken from here, unless another of them was shown since. */
export function nextOf<S extends Linked>(
  steps: readonly S[],
  id: string | null,
  visited: ReadonlyMap<string | null, string>,
): S | undefined {
  const branches = branchesOf(steps, id)
  return branches.find((step) => step.id === visited.get(id)) ?? branches.at(-1)
}

/** The branch in sight: the way to the step that is shown, and on from it as redo would go. */
export function branchInSight<S extends Linked>(
  steps: readonly S[],
  id: string | null,
  visited: ReadonlyMap<string | null, string>,
): S[] {
  const found = pathTo(steps, id)
  for (let step = nextOf(steps, id, visited); step; step = nextOf(steps, step.id, visited)) found.push(step)
  return found
}
