import type { ColumnLook, ModelMeasure, ModelTable, SemanticModel } from '@/api/types'

/** What people read of a table, which has no caption of its own, as the trail says it too: "fare_products", and
 * "FareProducts", as Fare products. */
export function tableCaption(name: string): string {
  const parts = name.match(/[\p{L}\p{N}]+/gu) ?? []
  const words =
    parts
      .flatMap((each) => each.split(/(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])/))
      .join(' ')
      .toLowerCase() || name.trim()
  return words.charAt(0).toUpperCase() + words.slice(1)
}

/** The tables that a model is about, in the order of their measures: their records are counted, and no other points at
 * them; or more is taken of them than a count. */
export function factsOf(model: SemanticModel): string[] {
  const pointed = new Set((model.relationships ?? []).map((each) => each.to_table))
  const own = (model.measures ?? []).filter(
    (each) =>
      !['ratio', 'formula'].includes(each.aggregate) && (!pointed.has(each.table) || each.aggregate !== 'count'),
  )
  return [...new Set(own.map((each) => each.table))].filter((each) => each in model.tables)
}

const KINDS: Record<string, string> = {
  text: 'text',
  whole: 'whole numbers',
  decimal: 'decimals',
  float: 'numbers',
  day: 'dates',
  moment: 'dates with times',
  boolean: 'yes or no',
  nothing: 'nothing',
}

/** What a column holds, in a word or two. */
export function kindWords(look: ColumnLook | undefined, table: ModelTable | undefined): string {
  if (!look) return ''
  if (!look.profile) return 'cannot be read'
  const declared = table?.columns?.[look.name]
  if (declared?.is_key) return 'names something'
  const words = KINDS[look.profile.kind] ?? ''
  return look.profile.kind === 'decimal' ? `decimals, ${look.profile.scale} places` : words
}

const COUNT = new Intl.NumberFormat('en-GB')
/** A count as people read it: 1,992,410. */
export function counted(count: number): string {
  return COUNT.format(count)
}

/** One or many of a thing: "1 record", "2,246 records". */
export function many(count: number, one: string, more = `${one}s`): string {
  return `${counted(count)} ${count === 1 ? one : more}`
}

/** A name for something new, made of its caption, that no other has. */
export function nameOf(caption: string, taken: readonly string[], otherwise: string): string {
  const plain = caption
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '')
  const found = /^[a-z]/.test(plain) ? plain : plain ? `${otherwise}_${plain}` : otherwise
  if (!taken.includes(found)) return found
  for (let number = 2; ; number += 1) if (!taken.includes(`${found}_${number}`)) return `${found}_${number}`
}

export interface AggregateChoice {
  value: ModelMeasure['aggregate']
  title: string
  /** Why one would, or when it says nothing. */
  why: string
}

/** The ways to take the values of a column together, those that fit what it holds first. */
export const AGGREGATES: readonly AggregateChoice[] = [
  { value: 'sum', title: 'Added up', why: 'for amounts: money, people, kilometres' },
  { value: 'count', title: 'Records counted', why: 'needs no column' },
  { value: 'distinct', title: 'Different ones counted', why: 'for what names something: cards, customers' },
  { value: 'count_values', title: 'Values counted', why: 'records where it is not blank' },
  { value: 'average', title: 'Averaged', why: 'for rates and prices, of which a sum says nothing' },
  { value: 'weighted_average', title: 'Averaged by weight', why: 'a price by what was bought at it' },
  { value: 'min', title: 'The least', why: '' },
  { value: 'max', title: 'The greatest', why: '' },
  { value: 'median', title: 'The middle one', why: 'half of the records have less' },
  { value: 'percentile', title: 'A percentile', why: '' },
  { value: 'deviation', title: 'Deviation', why: '' },
  { value: 'variance', title: 'Variance', why: '' },
  { value: 'balance', title: 'A balance', why: 'what is there on a day: over time it is not added up' },
  { value: 'first', title: 'The first', why: 'by the day of its record' },
  { value: 'last', title: 'The last', why: 'by the day of its record' },
  { value: 'debit', title: 'Debits', why: 'what is above zero' },
  { value: 'credit', title: 'Credits', why: 'what is below zero' },
  { value: 'open', title: 'What is open', why: 'begun by then and not ended' },
  { value: 'ratio', title: 'One measure by another', why: '' },
  { value: 'formula', title: 'A formula', why: 'over other measures' },
]

/** A column as a row formula names it. */
export function quoted(column: string): string {
  return /^[a-z_][a-z0-9_]*$/.test(column) ? column : `"${column.replace(/"/g, '""')}"`
}

/** The column that an expression is of, where it is of one alone. */
export function columnOf(expression: string | null | undefined): string | null {
  if (!expression) return null
  const inside = /^"((?:[^"]|"")*)"$/.exec(expression)
  if (inside) return inside[1]!.replace(/""/g, '"')
  return /^[\p{L}_][\p{L}\p{N}_]*$/u.test(expression) ? expression : null
}
