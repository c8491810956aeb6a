import { POST, body } from '@/api/client'
import type { Analysis, MemberHeader, Offer, PlacedMeasure, PlacedMember, Thing } from '@/api/types'

type Placed = Pick<PlacedMeasure, 'measure'> & Partial<PlacedMeasure>

const blank = { path: [], more: [], row: [], column: [], is_empty: false }

/** A thing with all its fields, as the server takes it. */
export function measureThing(placed: Placed): Thing {
  const { measure, aggregate, percentile, view } = placed
  return {
    ...blank,
    kind: 'measure',
    measure,
    aggregate: aggregate ?? null,
    percentile: percentile ?? null,
    view: view ?? null,
  }
}

/** Whether two name the same measure, by the same aggregate and view. */
export function isSamePlaced(one: Placed, other: Placed): boolean {
  return JSON.stringify(measureThing(one)) === JSON.stringify(measureThing(other))
}

/** All measures, as the group in which they stand. */
export function measuresThing(): Thing {
  return { ...blank, kind: 'measures' }
}

/** An axis as a whole. */
export function axisThing(axis: 'rows' | 'columns'): Thing {
  return { ...blank, kind: 'axis', axis }
}

/** A way down that was made in the analysis. */
export function wayThing(way: string): Thing {
  return { ...blank, kind: 'way', way }
}

/** A list of members by its name. */
export function listThing(list: string): Thing {
  return { ...blank, kind: 'list', list }
}

export function filterThing(at: number): Thing {
  return { ...blank, kind: 'filter', at }
}

export function dimensionThing(dimension: string, hierarchy: string, level?: string): Thing {
  return { ...blank, kind: 'dimension', dimension, hierarchy, level: level ?? null }
}

/** A member in a header: with all that it stands in, and further members that are meant as well. */
export function memberThing(
  member: MemberHeader,
  chain: readonly MemberHeader[],
  axis: 'rows' | 'columns',
  more: Thing['more'] = [],
): Thing {
  const place = axis === 'rows' ? { row: placedIn(chain) } : { column: placedIn(chain) }
  return {
    ...blank,
    kind: 'member',
    dimension: member.dimension,
    hierarchy: member.hierarchy,
    path: member.path,
    more,
    ...place,
  }
}

/** A member by its path, wherever it stands. */
export function pathThing(dimension: string, hierarchy: string, path: Thing['path']): Thing {
  return { ...blank, kind: 'member', dimension, hierarchy, path }
}

export function cellThing(
  row: readonly MemberHeader[],
  column: readonly MemberHeader[],
  placed: Placed | null,
  isEmpty: boolean,
): Thing {
  return {
    ...(placed ? measureThing(placed) : blank),
    kind: 'cell',
    row: placedIn(row),
    column: placedIn(column),
    is_empty: isEmpty,
  }
}

/** The deepest member of each hierarchy; none for a header in which the rest of a level stands. */
function placedIn(chain: readonly MemberHeader[]): PlacedMember[] {
  if (chain.some((each) => each.is_others)) return []
  const found = new Map<string, PlacedMember>()
  for (const { dimension, hierarchy, path } of chain)
    found.set(`${dimension}/${hierarchy}`, { dimension, hierarchy, path })
  return [...found.values()]
}

/** Everywhere that a thing may land in the document. */
export async function offersFor(document: Analysis, thing: Thing): Promise<Offer[]> {
  const asked = { document, thing }
  const found = await body(
    POST('/api/models/{model}/offers', { params: { path: { model: document.model } }, body: asked }),
  )
  return found.offers
}
