import type { NumberFormat, ShownMeasure } from '@/api/types'
import { grouped, percented } from '../questioning/digits'

/** As wide as a bracket. */
const BRACKET_ROOM = '\u2004'

export type Value = number | string | null | undefined

/** A number to draw or compare; one of more digits than a float holds loses what no eye could see. */
export function numberOf(value: Value): number | null {
  return value === null || value === undefined ? null : Number(value)
}

/** Writes numbers as a CLDR pattern asks. Digits sent as text lose none; an empty cell stays blank. */
export function numberWriter(format: NumberFormat): (value: Value) => string {
  const digits = new Intl.NumberFormat('en-GB', {
    minimumFractionDigits: format.least_fraction,
    maximumFractionDigits: format.most_fraction,
    useGrouping: format.is_grouped,
    signDisplay: 'never',
  })
  return (value) => {
    if (value === null || value === undefined) return ''
    const isExact = typeof value === 'string' && Math.abs(format.factor) === 1
    const scaled = isExact ? (value as Intl.StringNumericLiteral) : Number(value) * format.factor
    const text = digits.format(scaled)
    const isBelow = Number(value) * format.factor < 0 && /[1-9]/.test(text)
    // Digits stay below digits where negatives end in a bracket.
    if (!isBelow)
      return format.prefix + text + format.suffix + (format.negative_suffix.endsWith(')') ? BRACKET_ROOM : '')
    return format.negative_prefix.replace('-', '−') + text + format.negative_suffix
  }
}

/** All digits of a number that is written with fewer, as per cent where it is written so; nothing where none is left out. */
export function exactFigure(format: NumberFormat, value: Value, written: string): string {
  if (value === null || value === undefined) return ''
  const turned = format.factor < 0 ? (typeof value === 'string' ? flipped(value) : -value) : value
  const text = Math.abs(format.factor) === 100 ? percented(String(turned)) : grouped(String(turned))
  return figuresOf(text) === figuresOf(written) ? '' : text
}

function flipped(digits: string): string {
  return digits.startsWith('-') ? digits.slice(1) : `-${digits}`
}

/** The digits of a text without zeros that say nothing. */
function figuresOf(text: string): string {
  const figures = text.replace(/[^\d.]/g, '')
  return figures.includes('.') ? figures.replace(/\.?0+$/, '') : figures
}

/** What was done to a measure's numbers: scaled, turned; nothing where they are as they are. */
export function doneTo(measure: ShownMeasure): string {
  return measure.dress.scale === 'one' && !measure.dress.is_turned ? '' : measure.unit
}

/** What stands above a measure's numbers: its name, and what was done to them. */
export function headingOf(measure: ShownMeasure): string {
  return [measure.heading, doneTo(measure)].filter(Boolean).join(', ')
}
