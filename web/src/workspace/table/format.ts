import type { NumberFormat } from '@/api/types'

export type Value = number | string | null | undefined

/** Writes numbers as a CLDR pattern asks. Digits sent as text lose none; an empty cell stays blank. */
export function numberWriter(format: NumberFormat): (value: Value) => string {
  const digits = new Intl.NumberFormat('en-GB', {
    minimumFractionDigits: format.least_fraction,
    maximumFractionDigits: format.most_fraction,
    useGrouping: format.is_grouped,
  })
  return (value) => {
    if (value === null || value === undefined) return ''
    const scaled = typeof value === 'string' ? (value as Intl.StringNumericLiteral) : value * format.factor
    return format.prefix + digits.format(scaled).replace('-', '−') + format.suffix
  }
}
