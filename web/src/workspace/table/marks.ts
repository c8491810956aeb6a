import type { NumberDress, ShownMeasure } from '@/api/types'

/** How a cell is marked, beside its number: never by colour alone. */
export interface CellMark {
  style?: string
  meaning?: Meaning
  /** Stands before the number in place of the sign of its meaning. */
  sign?: '▲' | '▼'
  /** Whether something is said of it. */
  isSaid?: boolean
}

export type Threshold = NonNullable<NumberDress['thresholds']>[number]
export type Meaning = Threshold['meaning']

export const SIGNS: Record<Meaning, string> = { favourable: '▲', unfavourable: '▼', noted: '●' }

/** What stands behind a number: a bar as long, or a shade as deep, as its share of the one farthest from zero. */
export function groundOf(measure: ShownMeasure, ground: number | null): string | undefined {
  if (ground === null || measure.dress.in_cell === 'number') return undefined
  const colour = ground < 0 ? '--v-theme-secondary' : '--v-theme-success'
  const share = Math.min(1, Math.abs(ground))
  if (measure.dress.in_cell === 'bar') {
    const end = `${(share * 100).toFixed(1)}%`
    return `background: linear-gradient(to right, rgba(var(${colour}), 17%) ${end}, transparent ${end}) no-repeat 0 3px / 100% 15px`
  }
  return `background: rgba(var(${colour}), ${Math.round(4 + share * 38)}%)`
}

/** The mark of a change: which way it goes, and whether that is good, where the model says so. */
export function changeMark(measure: ShownMeasure, value: number | null, text: string): CellMark | null {
  // What is written as nothing is no change to speak of.
  if (!measure.direction || !value || !/[1-9]/.test(text)) return null
  const sign = value > 0 ? '▲' : '▼'
  if (measure.direction === 'either') return { sign }
  return { sign, meaning: value > 0 === (measure.direction === 'more') ? 'favourable' : 'unfavourable' }
}

/** Whether its dress marks any number. */
export function isMarked(measure: ShownMeasure): boolean {
  return measure.dress.in_cell !== 'number' || !!measure.dress.thresholds?.length
}
