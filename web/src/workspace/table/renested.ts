import type { MemberHeader, Thing } from '@/api/types'

/** A line of what a drop would bring: a member, and how far it is stepped in. */
export interface Coming {
  caption: string
  indent: number
}

interface Placed {
  dimension: string
  hierarchy: string
}

const MOST = 3

function isOf(one: Placed, other: Placed): boolean {
  return one.dimension === other.dimension && one.hierarchy === other.hierarchy
}

/** The first members of a hierarchy, of its outermost level that stands there. */
function membersOf(chains: readonly (readonly MemberHeader[])[], own: Placed): string[] {
  const outermost = chains.flatMap((chain) => chain.find((each) => isOf(each, own)) ?? [])
  return [...new Set(outermost.map((each) => each.caption))]
}

/**
 * What an axis would begin with if a hierarchy that stands on it stood at another place: the first member of each, and
 * some of the innermost one, out of those in sight. Null where the hierarchy does not stand on it yet.
 */
export function renested(
  chains: readonly (readonly MemberHeader[])[],
  placed: readonly Placed[],
  dragged: Thing | null,
  at: number,
): Coming[] | null {
  if (!dragged?.dimension || !dragged.hierarchy) return null
  const own = { dimension: dragged.dimension, hierarchy: dragged.hierarchy }
  const from = placed.findIndex((each) => isOf(each, own))
  if (from < 0) return null
  const order = placed.filter((_, place) => place !== from)
  order.splice(from < at ? at - 1 : at, 0, placed[from]!)
  return order.flatMap((each, place) => {
    const found = membersOf(chains, each)
    return found.slice(0, place === order.length - 1 ? MOST : 1).map((caption) => ({ caption, indent: place }))
  })
}
