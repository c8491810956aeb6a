/** A way to write numbers, as a list offers it. */
export interface Pattern {
  value: string
  title: string
}

/** The ways to write numbers that are offered, and the present one where it is none of these. */
export function withPresent(patterns: Pattern[], present: string): Pattern[] {
  return patterns.some((each) => each.value === present) ? patterns : [...patterns, { value: present, title: present }]
}
