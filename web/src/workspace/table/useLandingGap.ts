import { computed, type Ref } from 'vue'
import type { Shown } from '@/api/types'
import { useDragging } from '../dragging'
import { rowHeightOf } from './layout'
import { renested, type Coming } from './renested'

/** The gap that the table opens where the drag would land, with the header and members it would bring. */
export function useLandingGap(shown: Ref<Shown>) {
  const dragging = useDragging()
  const over = (place: string) => computed(() => (dragging.over?.place === place ? dragging.over : null))
  const rows = over('rows')
  const columns = over('columns')
  const measures = over('measures')

  /** What stands on an axis already begins it anew, in its new order. */
  const anew = (axis: 'rows' | 'columns') =>
    computed(() => {
      const landing = axis === 'rows' ? rows.value : columns.value
      const chains = shown.value.answered!.window[axis].map((each) => each.members)
      return landing && renested(chains, shown.value.document.question?.[axis] ?? [], dragging.thing, landing.at ?? 0)
    })
  const rowsAnew = anew('rows')
  const columnsAnew = anew('columns')

  /** The first row under which the landing's members would stand; the top for the outermost place. */
  const rowAt = computed(() => {
    const at = rows.value?.at
    if (at === null || at === undefined) return null
    if (at === 0 || rowsAnew.value) return 0
    const edge = shown.value.answered!.window.rows.findIndex(
      (row) => row.place === at - 1 && row.member && !row.member.is_open,
    )
    return edge + 1
  })
  const indent = computed(() =>
    rowAt.value ? (shown.value.answered!.window.rows[rowAt.value - 1]?.indent ?? 0) + 1 : 0,
  )
  const rowMembers = computed<Coming[]>(
    () => rowsAnew.value ?? rows.value?.preview.slice(1).map((caption) => ({ caption, indent: indent.value })) ?? [],
  )
  const height = computed(() => rowMembers.value.length * rowHeightOf(shown.value.document.dress?.look))
  const rowHeader = computed(() => (rowsAnew.value ? '' : (rows.value?.preview[0] ?? '')))

  const headerMembers = computed(() =>
    columnsAnew.value ? pathsOf(columnsAnew.value) : (columns.value?.preview.slice(1) ?? []),
  )
  const headerLines = computed(() => (headerMembers.value.length ? 1 : 0))
  const headerAt = computed(() =>
    columns.value?.at && !columnsAnew.value
      ? Math.max(shown.value.answered!.window.outer_depth + shown.value.answered!.window.inner_depth, 1)
      : 0,
  )

  const measureAt = computed(() => (shown.value.answered!.measures.length ? (measures.value?.at ?? null) : null))
  const measureHeader = computed(() => measures.value?.preview[0] ?? '')

  return { rowAt, rowMembers, height, rowHeader, headerMembers, headerLines, headerAt, measureAt, measureHeader }
}

/** Of lines stepped in, the paths of the innermost: headers stand beside each other. */
function pathsOf(lines: readonly Coming[]): string[] {
  const deepest = Math.max(...lines.map((each) => each.indent))
  const above = lines.filter((each) => each.indent < deepest).map((each) => each.caption)
  return lines.filter((each) => each.indent === deepest).map((each) => [...above, each.caption].join(' › '))
}
