import { useClipboard } from '@vueuse/core'
import { GET, POST, body } from '@/api/client'
import { useNotice } from '@/shell/notice'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import type { CellLines } from '../thingMenu'
import { useSaying } from './saying'

/** Links to what is shown just now, and to one number of it. */
export function useLinking() {
  const workspace = useWorkspace()
  const saying = useSaying()
  const notice = useNotice()
  const problem = useProblem()
  const { copy } = useClipboard({ legacy: true })

  async function copyLink(cell: CellLines | null = null): Promise<void> {
    const { draft, document, answered } = workspace
    if (!draft || !document) return
    try {
      const asked = {
        document,
        handle: cell ? (answered?.answered?.handle ?? null) : null,
        row: cell?.row ?? 0,
        column: cell?.column ?? 0,
      }
      const { id } = await body(POST('/api/drafts/{id}/links', { params: { path: { id: draft.id } }, body: asked }))
      await copy(`${window.location.origin}/see/${id}`)
      const who = draft.analysis ? 'Whoever may see the analysis' : 'Whoever may open the model'
      notice.tell(
        `The link ${cell ? 'to this number' : 'to this view'} is copied. ${who} opens it with their own rights.`,
      )
    } catch (error) {
      problem.tell(error)
    }
  }

  /** Shows the number that a link means, once the view is answered. */
  async function showLinked(link: string): Promise<void> {
    const handle = workspace.answered?.answered?.handle
    if (!handle) return
    const found = await body(GET('/api/answers/{handle}/linked', { params: { path: { handle }, query: { link } } }))
    if (found.row !== null && found.column !== null) saying.wanted = { row: found.row, column: found.column }
  }

  return { copyLink, showLinked }
}
