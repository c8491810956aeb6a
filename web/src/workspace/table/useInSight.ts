import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, watch, type Ref } from 'vue'
import type { usePages } from './usePages'
import type { TableShape } from './useTableShape'

/** Rows drawn beyond either edge of what is in sight. */
const OVERSCAN = 8
/** Between the last row in sight and the totals below it. */
const FOOT = 8

interface Sizes {
  scroller: Ref<HTMLElement | null>
  /** How much of the table is in sight from top to bottom, in pixels, and of that the headers' lines. */
  inSight: Ref<number>
  headerHeight: () => number
  groupWidth: Ref<number>
}

/** The rows and the groups of columns that are drawn, which are those in sight and some beyond; and how others come into sight. */
export function useInSight(shape: TableShape, pages: ReturnType<typeof usePages>, sizes: Sizes) {
  const { scroller, inSight, headerHeight, groupWidth } = sizes
  const { rowHeight, bodyRows, firstBodyRow, perGroup, label } = shape
  const rowVirtualizer = useVirtualizer(
    computed(() => ({
      count: bodyRows.value,
      getScrollElement: () => scroller.value,
      estimateSize: () => rowHeight.value,
      overscan: OVERSCAN,
    })),
  )
  const columnVirtualizer = useVirtualizer(
    computed(() => ({
      count: pages.groupCount.value,
      horizontal: true,
      getScrollElement: () => scroller.value,
      estimateSize: () => groupWidth.value,
      overscan: 1,
    })),
  )
  watch(groupWidth, () => columnVirtualizer.value.measure())
  watch(rowHeight, () => rowVirtualizer.value.measure())

  const rows = computed(() => rowVirtualizer.value.getVirtualItems().map((item) => item.index + firstBodyRow.value))
  // The same list as long as it holds the same: what is drawn from it is not drawn again while rows scroll by.
  const groups = computed<number[]>((before) => {
    const now = columnVirtualizer.value.getVirtualItems().map((item) => item.index + pages.firstGroup.value)
    return before?.length === now.length && before.every((each, at) => each === now[at]) ? before : now
  })
  /** How many rows are ever drawn at once: one that leaves at one end is written anew at the other. */
  const pool = computed(() => Math.ceil(inSight.value / rowHeight.value) + 2 * OVERSCAN + 2)
  /** While it scrolls, rows are only written anew where they are; those who hear the table find them in order after. */
  const rowsAsDrawn = computed(() => {
    if (!rowVirtualizer.value.isScrolling) return rows.value
    return [...rows.value].sort((one, other) => (one % pool.value) - (other % pool.value))
  })
  const firstColumn = computed(() => (groups.value[0] ?? 0) * perGroup.value)
  const lastColumn = computed(() => ((groups.value.at(-1) ?? 0) + 1) * perGroup.value - 1)
  /** The first row that is not scrolled away. */
  const firstSeen = computed(
    () => Math.floor((rowVirtualizer.value.scrollOffset ?? 0) / rowHeight.value) + firstBodyRow.value,
  )

  function totalsHeight(isFirst: boolean): number {
    return shape.isTotalFirst.value === isFirst ? shape.totalCount.value * rowHeight.value : 0
  }

  /** Scrolls only as far as needed, and clear of the headers that stay in view. Args: `place` counts the body's rows. */
  function bringRow(place: number): void {
    const node = scroller.value
    if (!node) return
    const top = place * rowHeight.value
    const room = node.clientHeight - headerHeight() - totalsHeight(true) - totalsHeight(false) - FOOT - rowHeight.value
    if (top < node.scrollTop) node.scrollTop = top
    else if (top > node.scrollTop + room) node.scrollTop = top - room
  }

  function bringGroup(group: number): void {
    const node = scroller.value
    if (!node) return
    const left = (group - pages.firstGroup.value) * groupWidth.value
    const room = node.clientWidth - label.value - groupWidth.value
    if (left < node.scrollLeft) node.scrollLeft = left
    else if (left > node.scrollLeft + room) node.scrollLeft = left - room
  }

  return { rows, groups, pool, rowsAsDrawn, firstColumn, lastColumn, firstSeen, bringRow, bringGroup }
}
