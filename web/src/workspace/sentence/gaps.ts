import type { Offer, Phrase } from '@/api/types'

export interface Part {
  phrase?: Phrase
  offer?: Offer
}

/** The phrases, with a gap after the measures, the rows and the columns wherever the drag may land there. */
export function withGaps(phrases: readonly Phrase[], offers: readonly Offer[]): Part[] {
  const parts: Part[] = phrases.map((phrase) => ({ phrase }))
  const aside = offers.find((each) => each.place === 'waiting')
  if (aside) parts.push({ offer: aside })
  for (const place of ['columns', 'rows', 'measures'] as const) {
    const offer = offers.filter((each) => each.place === place).at(-1)
    if (offer) parts.splice(afterLast(phrases, place), 0, { offer })
  }
  return parts
}

function afterLast(phrases: readonly Phrase[], place: 'columns' | 'rows' | 'measures'): number {
  const kind = place === 'measures' ? 'measure' : 'dimension'
  const last = phrases.findLastIndex((each) => each.kind === kind && (kind === 'measure' || each.axis === place))
  if (last >= 0) return last + 1
  if (place === 'measures') return 0
  return afterLast(phrases, place === 'columns' ? 'rows' : 'measures')
}
