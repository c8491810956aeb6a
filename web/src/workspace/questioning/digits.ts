/** Exact digits, grouped by thousands, none of them lost. */
export function grouped(digits: string | null | undefined): string {
  if (digits === null || digits === undefined) return 'empty'
  const [, sign = '', whole = '', rest = ''] = /^(-?)(\d+)(.*)$/.exec(digits) ?? []
  if (!whole) return digits
  return sign.replace('-', '−') + whole.replace(/\B(?=(\d{3})+$)/g, ',') + rest
}

/** A count with its noun: "1 record", "1,204 records". */
export function counted(count: number, noun: string): string {
  return `${count.toLocaleString('en-GB')} ${noun}${count === 1 ? '' : 's'}`
}

/** A share of one as per cent, as many digits as a float holds. */
export function percented(digits: string | null | undefined): string {
  if (digits === null || digits === undefined) return 'empty'
  return `${grouped(String(Number((Number(digits) * 100).toPrecision(15))))} %`
}
