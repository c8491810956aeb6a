import type { Analysis, MemberHeader } from '@/api/types'

type Dress = NonNullable<Analysis['dress']>

/** What is said of a period that the data begins or ends inside of. */
export const IN_PART = ', in part'
export const WHY_IN_PART = 'Filled in part: the data begins or ends inside of it'

/** What a member is called in a header, as the dress says; of a period also that it is filled in part. */
export function labelOf(member: MemberHeader, dress: Dress | undefined): string {
  return `${captionOf(member, dress)}${member.is_part_filled ? IN_PART : ''}`
}

/** Members that stand in each other, and what those of an inner level stand in above. */
export function pathOf(members: readonly MemberHeader[], dress: Dress | undefined): string {
  return members.flatMap((each) => [...(each.within ?? []), labelOf(each, dress)]).join(' › ')
}

function captionOf(member: MemberHeader, dress: Dress | undefined): string {
  const shows =
    dress?.labels?.find((each) => each.dimension === member.dimension && each.hierarchy === member.hierarchy)?.shows ??
    'captions'
  const key = member.path.at(-1)
  if (shows === 'captions' || member.is_others || member.says || key === null || key === undefined)
    return member.caption
  if (shows === 'keys') return String(key)
  return String(key) === member.caption ? member.caption : `${member.caption} (${key})`
}
