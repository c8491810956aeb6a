import type { MemberHeader, NumberFormat, RowHeader, ShownMeasure } from '@/api/types'

type Row = NonNullable<MemberHeader['row']>
interface Held {
  members: readonly MemberHeader[]
}

/** How numbers are written and meant in a row of a financial layout, or under a ratio of members. */
type Written = Pick<Row, 'format' | 'favour'>

/** What the innermost header says of its numbers that says anything of them. */
export function layoutRow(...headers: (Held | undefined)[]): Written | null {
  for (const header of headers) {
    const found = header?.members.findLast((each) => each.row || each.format)
    if (found) return found.row ?? { format: found.format ?? null, favour: 0 }
  }
  return null
}

/** How a row that is laid out by hand is set: its weight and its rules. */
export function layoutLook(header: RowHeader): string | null {
  const row = header.member?.row
  if (!row) return null
  return [
    'laid',
    row.kind,
    row.is_strong && 'strong',
    row.rule_above !== 'none' && 'rule-above',
    row.rule_below !== 'none' && `below-${row.rule_below}`,
  ]
    .filter(Boolean)
    .join(' ')
}

/** A measure as its numbers are written and marked in a row that may say so itself. */
export function inRow(measure: ShownMeasure, row: Written | null, formats: Record<string, NumberFormat>): ShownMeasure {
  if (!row || (!row.format && row.favour === 1)) return measure
  const name =
    row.format && measure.row_format && (measure.row_format === 'change' ? `${row.format}|change` : row.format)
  const format = (name && formats[name]) || measure.format
  return { ...measure, format, direction: directionOf(measure.direction, row.favour) }
}

function directionOf(direction: ShownMeasure['direction'], favour: number): ShownMeasure['direction'] {
  if (!direction || direction === 'either' || favour === 1) return direction
  if (favour === 0) return 'either'
  return direction === 'more' ? 'less' : 'more'
}
