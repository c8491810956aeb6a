import { defineAsyncComponent, type Component } from 'vue'
import { ApiError } from '@/api/client'
import { useProblem } from './problem'

/** What is said where a part of the page cannot be had: the server is away, or holds another build by now. */
export function partMissing(): ApiError {
  return new ApiError(
    'offline',
    'A part of this page did not arrive.',
    'Check that the server runs and try again; if it was renewed meanwhile, load the page anew.',
    0,
  )
}

/** A part of the page that is fetched once it is wanted; until it can be, the page says so and offers to try again. */
export function later<T extends Component>(load: () => Promise<T | { default: T }>) {
  return defineAsyncComponent<T>({
    loader: load as () => Promise<T>,
    onError: (_error, retry) => useProblem().tell(partMissing(), retry),
  })
}
