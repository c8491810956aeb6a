import { withPresent, type Pattern } from '@/workspace/patterns'

const PATTERNS: Pattern[] = [
  { value: '#,##0', title: '1,235' },
  { value: '#,##0.0', title: '1,234.6' },
  { value: '#,##0.00', title: '1,234.57' },
  { value: '#,##0.000', title: '1,234.568' },
  { value: '0', title: '1235, without marks' },
  { value: '#,##0 %', title: '12 %, of a part' },
  { value: '#,##0.0 %', title: '12.3 %, of a part' },
  { value: '#,##0;(#,##0)', title: '1,235 and (1,235) below zero' },
  { value: '#,##0.00;(#,##0.00)', title: '1,234.57 and (1,234.57) below zero' },
]

/** The ways to write a measure's numbers, with the one that it has. */
export function numberPatterns(present: string): Pattern[] {
  return withPresent(PATTERNS, present)
}
