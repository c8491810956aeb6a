import type { Phrase, Shown, Thing } from '@/api/types'
import { dimensionThing } from '../things'

/** What stands on an axis, as the sentence calls it. */
export interface AxisName {
  text: string
  thing: Thing
}

export function axisNames(shown: Shown, axis: 'rows' | 'columns'): AxisName[] {
  const phrases = shown.sentence.filter((each): each is Phrase => each.kind === 'dimension' && each.axis === axis)
  return phrases.map((each) => ({ text: each.text, thing: dimensionThing(each.dimension!, each.hierarchy!) }))
}
