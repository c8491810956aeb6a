import { computed, ref, watch, type Ref } from 'vue'
import type { Section } from '@/api/types'
import { useWorkspace } from '../store'
import type { TableShape } from './useTableShape'

/** A wide table can be turned over like pages, one for each outermost header of its columns. */
export function usePages(shape: TableShape, scroller: Ref<HTMLElement | null>) {
  const workspace = useWorkspace()
  /** The groups of columns of the page that is open; null where all are shown. */
  const page = ref<{ start: number; count: number } | null>(null)
  /** Whether the first page is to be opened once the pages are known. */
  const opensFirst = ref(false)
  const firstGroup = computed(() => page.value?.start ?? 0)
  const groupCount = computed(() => page.value?.count ?? shape.groupCount.value)

  // The page stays where it is as long as the columns do: dressing and opening rows change nothing of them.
  watch(
    shape.answered,
    (now, before) => {
      if (now.window.column_count !== before.window.column_count) page.value = null
    },
    { flush: 'sync' },
  )

  function turnTo(section: Pick<Section, 'start' | 'count'> | null): void {
    const size = shape.perGroup.value
    opensFirst.value = false
    page.value = section && { start: Math.floor(section.start / size), count: Math.ceil(section.count / size) }
    if (scroller.value) scroller.value.scrollLeft = 0
  }

  /** The measures outermost, the first of them alone. */
  async function turnByMeasure(): Promise<void> {
    page.value = null
    await workspace.act({ kind: 'place_measures', axis: 'columns', at: 0 })
    opensFirst.value = !shape.isInside.value
  }

  /** Back to all columns, where a group stands on another page. */
  function reach(group: number): void {
    if (group < firstGroup.value || group >= firstGroup.value + groupCount.value) page.value = null
  }

  return { page, opensFirst, firstGroup, groupCount, turnTo, turnByMeasure, reach }
}
