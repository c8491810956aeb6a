import type { Offer, Phrase } from '@/api/types'

export interface Part {
  phrase?: Phrase
  offer?: Offer
}

const PLACES = ['measures', 'rows', 'columns'] as const
type Place = (typeof PLACES)[number]

/** The phrases, with a gap wherever the drag may land: before and after each measure and dimension, and at the end. */
export function withGaps(phrases: readonly Phrase[], offers: readonly Offer[]): Part[] {
  const before = new Map<number, Offer[]>()
  for (const place of PLACES) {
    const own = phrases.flatMap((phrase, at) => (isOf(phrase, place) ? [at] : []))
    for (const offer of offers.filter((each) => each.place === place)) {
      const at = own[offer.at ?? own.length] ?? end(phrases, place)
      before.set(at, [...(before.get(at) ?? []), offer])
    }
  }
  const aside = offers.filter((each) => each.place === 'waiting')
  before.set(phrases.length, [...(before.get(phrases.length) ?? []), ...aside])
  const parts: Part[] = []
  for (let at = 0; at <= phrases.length; at += 1) {
    const phrase = phrases[at]
    parts.push(...(before.get(at) ?? []).map((offer) => ({ offer })))
    if (phrase) parts.push({ phrase })
  }
  return parts
}

function isOf(phrase: Phrase, place: Place): boolean {
  return place === 'measures' ? phrase.kind === 'measure' : phrase.kind === 'dimension' && phrase.axis === place
}

/** Just after the last of a place; where there is none, where it would begin. */
function end(phrases: readonly Phrase[], place: Place): number {
  const last = phrases.findLastIndex((each) => isOf(each, place))
  if (last >= 0 || place === 'measures') return last + 1
  return end(phrases, place === 'columns' ? 'rows' : 'measures')
}
