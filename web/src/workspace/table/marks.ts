import type { NumberDress, ShownMeasure } from '@/api/types'

/** How a cell is marked, beside its number: never by colour alone. */
export interface CellMark {
  style?: string
  meaning?: Meaning
}

export type Threshold = NonNullable<NumberDress['thresholds']>[number]
export type Meaning = Threshold['meaning']

export const SIGNS: Record<Meaning, string> = { favourable: '▲', unfavourable: '▼', noted: '●' }

/** The first threshold that holds for a number as it is. Args: `other` gives another measure's number in the same place. */
export function thresholdOf(value: number, thresholds: readonly Threshold[], other: (threshold: Threshold) => number | null): Threshold | null {
  for (const each of thresholds) {
    const against = each.times ? other(each) : 1
    if (against === null) continue
    const edge = each.amount * against
    if (each.side === 'at_least' ? value >= edge : value <= edge) return each
  }
  return null
}

/** What stands behind a number: a bar as long, or a shade as deep, as the number is large among the innermost ones. */
export function groundOf(measure: ShownMeasure, value: number): string | undefined {
  const most = Math.max(Math.abs(measure.least ?? 0), Math.abs(measure.greatest ?? 0))
  if (!most || measure.dress.in_cell === 'number') return undefined
  const colour = value < 0 ? '--v-theme-secondary' : '--v-theme-success'
  const share = Math.min(1, Math.abs(value) / most)
  if (measure.dress.in_cell === 'bar') {
    const end = `${(share * 100).toFixed(1)}%`
    return `background: linear-gradient(to right, rgba(var(${colour}), 17%) ${end}, transparent ${end}) no-repeat 0 3px / 100% 15px`
  }
  return `background: rgba(var(${colour}), ${Math.round(4 + share * 38)}%)`
}

/** Whether any number is marked at all. */
export function isMarked(measure: ShownMeasure): boolean {
  return measure.dress.in_cell !== 'number' || !!measure.dress.thresholds?.length
}
