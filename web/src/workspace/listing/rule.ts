import type { Condition, DraftedList } from '@/api/types'

type Made = DraftedList['made']
type Period = Extract<Condition, { kind: 'period' }>
type Attribute = Extract<Condition, { kind: 'attribute' }>
type OfMeasure = Extract<Condition, { kind: 'measure' }>

/** Periods that a rule may be over, counted from the newest day in the data. */
export const PERIODS: readonly {
  title: string
  unit: Period['unit']
  first: number
  last: number
  to_date: boolean
}[] = [
  { title: 'this year so far', unit: 'year', first: 0, last: 0, to_date: true },
  { title: 'last year', unit: 'year', first: -1, last: -1, to_date: false },
  { title: 'the last 12 months', unit: 'month', first: -12, last: -1, to_date: false },
  { title: 'the last 4 quarters', unit: 'quarter', first: -4, last: -1, to_date: false },
  { title: 'last quarter', unit: 'quarter', first: -1, last: -1, to_date: false },
  { title: 'last month', unit: 'month', first: -1, last: -1, to_date: false },
  { title: 'last financial year', unit: 'financial_year', first: -1, last: -1, to_date: false },
]

export function periodNamed(title: string, dimension: string): Condition | null {
  const found = PERIODS.find((each) => each.title === title)
  if (!found) return null
  const { unit, first, last, to_date } = found
  return { kind: 'period', dimension, unit, first, last, to_date, anchor: 'newest', action: 'keep' }
}

/** A number as somebody writes it; null where it is none. */
export function plainNumber(text: string): number | null {
  const plain = text.replaceAll(',', '').trim()
  return plain !== '' && Number.isFinite(Number(plain)) ? Number(plain) : null
}

/** What a form shows of a rule, and the conditions that it has no place for, which stay as they are. */
export interface RuleParts {
  name: { on: boolean; attribute: string; operator: 'contains' | 'begins_with' | 'ends_with' | 'equal'; text: string }
  measure: { on: boolean; measure: string; operator: 'at_least' | 'more' | 'at_most' | 'less'; text: string }
  first: {
    on: boolean
    measure: string
    count: NonNullable<Made['ranked']>['count']
    amount: string | number
    side: 'largest' | 'smallest'
  }
  further: Condition[]
}

const NAMES = ['contains', 'begins_with', 'ends_with', 'equal']
const COMPARISONS = ['at_least', 'more', 'at_most', 'less']

function isPlainName(each: Condition): each is Attribute {
  return each.kind === 'attribute' && each.on === 'caption' && each.action === 'keep' && NAMES.includes(each.operator)
}

function isPlainMeasure(each: Condition): each is OfMeasure {
  return each.kind === 'measure' && !each.per && each.action === 'keep' && COMPARISONS.includes(each.operator)
}

export function ruleParts(made: Made, attribute: string, measure: string): RuleParts {
  const where = made.where ?? []
  const name = where.find(isPlainName)
  const compared = where.find(isPlainMeasure)
  return {
    name: {
      on: !!name,
      attribute: name?.attribute ?? attribute,
      operator: (name?.operator ?? 'contains') as RuleParts['name']['operator'],
      text: name?.values.join('; ') ?? '',
    },
    measure: {
      on: !!compared,
      measure: compared?.measure ?? measure,
      operator: (compared?.operator ?? 'at_least') as RuleParts['measure']['operator'],
      text: compared ? String(compared.values[0]) : '',
    },
    first: {
      on: !!made.ranked,
      measure: made.ranked?.measure ?? measure,
      count: made.ranked?.count ?? 'members',
      amount: made.ranked?.amount ?? 10,
      side: made.ranked?.side ?? 'largest',
    },
    further: where.filter((each) => each !== name && each !== compared),
  }
}
