import type { Makes, Times } from '@/api/types'

/** What can be made of an analysis by itself. */
export const MAKES: { title: string; value: Makes }[] = [
  { title: 'A workbook (XLSX)', value: 'table.xlsx' },
  { title: 'An open spreadsheet (ODS)', value: 'table.ods' },
  { title: 'Pages (PDF)', value: 'table.pdf' },
  { title: 'A web page (HTML)', value: 'table.html' },
  { title: 'A CSV file of the table', value: 'table.csv' },
  { title: 'A CSV file of the numbers, flat', value: 'numbers.csv' },
  { title: 'The numbers as Parquet', value: 'numbers.parquet' },
  { title: 'The numbers as Arrow', value: 'numbers.arrow' },
  { title: 'A frozen copy', value: 'frozen' },
]

export const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
/** The days of a month that it may be made on. */
export const DAYS: { title: string; value: number }[] = [
  ...Array.from({ length: 28 }, (_, at) => ({ title: `day ${at + 1}`, value: at + 1 })),
  { title: 'its last day', value: -1 },
]

/** Whether times say when they come: on weekdays only where there is one. */
export function areWhole(times: Times): boolean {
  return !!times.at && (times.every !== 'week' || !!times.weekdays?.length)
}

export function makesWords(makes: string): string {
  return MAKES.find((each) => each.value === makes)?.title ?? makes
}

/** "every Monday and Thursday at 08:00". */
export function timesWords(times: Times): string {
  const days = new Intl.ListFormat('en-GB').format([...(times.weekdays ?? [])].sort().map((each) => WEEKDAYS[each]!))
  const when = {
    day: 'every day',
    week: `every ${days}`,
    month: `each month on ${DAYS.find((each) => each.value === times.day)?.title ?? `day ${times.day}`}`,
  }
  return `${when[times.every]} at ${times.at}`
}

export function sizeWords(bytes: number): string {
  const parts = ['byte', 'kilobyte', 'megabyte'] as const
  const at = Math.min(Math.floor(Math.log10(Math.max(bytes, 1)) / 3), parts.length - 1)
  return new Intl.NumberFormat('en-GB', { style: 'unit', unit: parts[at], maximumFractionDigits: at ? 1 : 0 }).format(
    bytes / 1000 ** at,
  )
}
