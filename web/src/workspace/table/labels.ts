import type { Analysis, MemberHeader } from '@/api/types'

type Dress = NonNullable<Analysis['dress']>

/** What a member is called in a header, as the dress says. */
export function labelOf(member: MemberHeader, dress: Dress | undefined): string {
  const shows = dress?.labels?.find((each) => each.dimension === member.dimension && each.hierarchy === member.hierarchy)?.shows ?? 'captions'
  const key = member.path.at(-1)
  if (shows === 'captions' || member.is_others || member.says || key === null || key === undefined) return member.caption
  if (shows === 'keys') return String(key)
  return String(key) === member.caption ? member.caption : `${member.caption} (${key})`
}
