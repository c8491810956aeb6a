import { expect, it } from 'vitest'
import { branchInSight, branchesOf, nextOf, pathTo, type Step } from './tree'

/** a leads to b and then c, of which c leads to d. */
const STEPS = [
  ['a', null],
  ['b', 'a'],
  ['c', 'a'],
  ['d', 'c'],
].map(([id, parent]) => ({ id, parent, words: id, name: '' }) as Step)

const ids = (steps: Step[]): string[] => steps.map((step) => step.id)

it('leads from the first step to any', () => {
  expect(ids(pathTo(STEPS, 'd'))).toEqual(['a', 'c', 'd'])
  expect(pathTo(STEPS, 'gone')).toEqual([])
})

it('goes on to the step that was taken last, unless another was shown since', () => {
  expect(ids(branchesOf(STEPS, 'a'))).toEqual(['b', 'c'])
  expect(nextOf(STEPS, 'a', new Map())?.id).toBe('c')
  expect(nextOf(STEPS, 'a', new Map([['a', 'b']]))?.id).toBe('b')
  expect(nextOf(STEPS, 'd', new Map())).toBeUndefined()
})

it('shows the way to here and on from here as redo would go', () => {
  expect(ids(branchInSight(STEPS, 'a', new Map()))).toEqual(['a', 'c', 'd'])
  expect(ids(branchInSight(STEPS, 'a', new Map([['a', 'b']])))).toEqual(['a', 'b'])
})
