import { POST, body } from '@/api/client'
import type { Analysis, Offer, Thing } from '@/api/types'

/** A thing with all its fields, as the server takes it. */
export function measureThing(measure: string, aggregate?: Thing['aggregate'], percentile?: number | null): Thing {
  return { kind: 'measure', measure, aggregate: aggregate ?? null, percentile: percentile ?? null, path: [] }
}

export function filterThing(at: number): Thing {
  return { kind: 'filter', at, path: [] }
}

export function dimensionThing(dimension: string, hierarchy: string, level?: string): Thing {
  return { kind: 'dimension', dimension, hierarchy, level: level ?? null, path: [] }
}

export function memberThing(member: { dimension: string; hierarchy: string; path: Thing['path'] }): Thing {
  return { kind: 'member', dimension: member.dimension, hierarchy: member.hierarchy, path: member.path }
}

/** Everywhere that a thing may land in the document. */
export async function offersFor(document: Analysis, thing: Thing): Promise<Offer[]> {
  const asked = { document, thing }
  const found = await body(
    POST('/api/models/{model}/offers', { params: { path: { model: document.model } }, body: asked }),
  )
  return found.offers
}
