import type { MemberPath } from '@/api/types'

/** Paths as map keys. */
export function keyOf(path: MemberPath): string {
  return JSON.stringify(path)
}

/** Whether a member is picked itself, lies below a picked one, or has picked ones below it. */
export function pickState(
  picked: ReadonlyMap<string, MemberPath>,
  path: MemberPath,
): 'picked' | 'under' | 'partly' | 'not' {
  if (picked.has(keyOf(path))) return 'picked'
  for (let length = 1; length < path.length; length += 1) {
    if (picked.has(keyOf(path.slice(0, length)))) return 'under'
  }
  for (const other of picked.values()) {
    if (other.length > path.length && path.every((key, place) => other[place] === key)) return 'partly'
  }
  return 'not'
}

/** The picks with one member turned on or off. Turning it on replaces what was picked below it. */
export function toggled(picked: ReadonlyMap<string, MemberPath>, path: MemberPath): Map<string, MemberPath> {
  const result = new Map(picked)
  if (result.delete(keyOf(path))) return result
  for (const [key, other] of result) {
    if (other.length > path.length && path.every((each, place) => other[place] === each)) result.delete(key)
  }
  result.set(keyOf(path), path)
  return result
}
