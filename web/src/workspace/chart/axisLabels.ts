import type { ChartData, ChartHeader } from '@/api/types'
import type { Ink } from './option'

const LETTER_WIDTH = 6
const FEWEST_LETTERS = 4
const LEANING_LETTERS = 13
/** No caption needs more room than this to stand upright; one that has less, and is longer, leans. */
const LABEL_WIDTH = 62
const BETWEEN = 8
const LEANING_WIDTH = 17
const GROUP_WIDTH = 34
const ROOM = { upright: 26, leaning: 60, groups: 22 }

/** Whether captions beside each other would run into their neighbours. */
export function leans(data: ChartData, places: readonly number[], width: number): boolean {
  const longest = Math.max(0, ...places.map((place) => data.categories[place]?.captions.at(-1)?.length ?? 0))
  return places.length * Math.min(LABEL_WIDTH, longest * LETTER_WIDTH + BETWEEN) > width
}

/** How much room labels below an axis take. */
export function footRoom(isLeaning: boolean, hasGroups: boolean): number {
  return (isLeaning ? ROOM.leaning : ROOM.upright) + (hasGroups ? ROOM.groups : 0)
}

/** Captions of the innermost members along an axis: each with its room, or every second, or third, one. */
export function labelsOf(data: ChartData, places: readonly number[], width: number) {
  const isLeaning = leans(data, places, width)
  const every = Math.max(1, Math.ceil((places.length * LEANING_WIDTH) / width))
  const letters = isLeaning ? LEANING_LETTERS : Math.floor(width / places.length / LETTER_WIDTH) - 1
  return {
    interval: (at: number) => at % every === 0,
    rotate: isLeaning ? 38 : 0,
    formatter: (name: string) => short(data.categories[Number(name)]?.captions.at(-1) ?? '', letters),
  }
}

interface Group {
  start: number
  count: number
  path: readonly string[]
}

/** Neighbours that stand under the same members, as deep as each group still has room for its name. */
function groupsOf(data: ChartData, places: readonly number[], width: number, first: number): Group[] {
  const paths = places.map((place) => data.categories[place]?.captions.slice(first, -1) ?? [])
  for (let depth = Math.max(...paths.map((each) => each.length), 0); depth > 0; depth -= 1) {
    const found: Group[] = []
    paths.forEach((path, at) => {
      const own = path.slice(0, depth)
      const last = found.at(-1)
      if (last && last.path.join('\n') === own.join('\n')) last.count += 1
      else found.push({ start: at, count: 1, path: own })
    })
    if (depth === 1 || width / found.length >= GROUP_WIDTH) return found
  }
  return []
}

/** A second axis under the first, which names what its members stand under and parts them by hairlines; null where
 * they stand under nothing. `first` captions are said elsewhere. */
export function groupAxis(
  data: ChartData,
  places: readonly number[],
  width: number,
  first: number,
  at: number,
  ink: Ink,
): object | null {
  const groups = groupsOf(data, places, width, first)
  if (!groups.some((each) => each.path.length)) return null
  const slot = width / places.length
  const labels = new Map(
    groups.map((each) => [
      each.start + Math.floor((each.count - 1) / 2),
      pathIn(each.path, (each.count * slot) / LETTER_WIDTH - 1),
    ]),
  )
  const starts = new Set(groups.map((each) => each.start).filter(Boolean))
  return {
    gridIndex: at,
    type: 'category',
    position: 'bottom',
    offset: footRoom(leans(data, places, width), false) - 6,
    data: places.map(String),
    axisLine: { show: false },
    axisTick: { show: false },
    splitLine: { show: true, interval: (place: number) => starts.has(place), lineStyle: { color: ink.rule } },
    axisLabel: {
      color: ink.ink,
      fontSize: 11,
      fontWeight: 600,
      margin: 4,
      interval: (place: number) => !!labels.get(place),
      formatter: (_: string, place: number) => labels.get(place) ?? '',
    },
  }
}

/** Of a path all where there is room for it, else its own end, which tells it from its neighbours. */
function pathIn(path: readonly string[], letters: number): string {
  const whole = path.join(' › ')
  return whole.length <= letters ? whole : short(path.at(-1) ?? '', letters)
}

/** Of a member the whole path where there is room for it, else its own name. */
export function memberIn(header: ChartHeader | undefined, letters: number): string {
  return pathIn(header?.captions ?? [], letters)
}

export function short(caption: string, letters: number): string {
  if (caption.length <= letters) return caption
  return letters < FEWEST_LETTERS ? '' : `${caption.slice(0, letters - 1)}…`
}
