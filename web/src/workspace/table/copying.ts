import { POST, body } from '@/api/client'
import type { Copied, PlacedMember } from '@/api/types'
import { useNotice } from '@/shell/notice'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import { useSelection } from './selection'
import type { Block } from './useActiveCell'

/** Puts texts on the clipboard, also where the page is not served over a safe connection. */
async function put(text: string, html: string): Promise<void> {
  if (window.isSecureContext && 'ClipboardItem' in window) {
    const item = new ClipboardItem({
      'text/plain': new Blob([text], { type: 'text/plain' }),
      'text/html': new Blob([html], { type: 'text/html' }),
    })
    await navigator.clipboard.write([item])
    return
  }
  const fill = (event: ClipboardEvent): void => {
    event.clipboardData?.setData('text/plain', text)
    event.clipboardData?.setData('text/html', html)
    event.preventDefault()
  }
  document.addEventListener('copy', fill, { once: true })
  document.execCommand('copy')
  document.removeEventListener('copy', fill)
}

function counted(count: number, one: string): string {
  return `${count.toLocaleString('en-GB')} ${one}${count === 1 ? '' : 's'}`
}

/** Members of an axis, or a block of cells; all without. */
interface Wanted {
  axis?: 'rows' | 'columns'
  members?: PlacedMember[]
  rows?: [number, number]
  columns?: [number, number]
}

/** Takes the table away as it is seen, onto the clipboard. */
export function useCopying() {
  const workspace = useWorkspace()
  const selection = useSelection()
  const problem = useProblem()
  const notice = useNotice()

  function asked() {
    const shown = workspace.answered
    const dress = workspace.document?.dress
    return shown?.answered && dress ? { path: { handle: shown.answered.handle }, dress } : null
  }

  async function copy(wanted: Wanted): Promise<void> {
    const own = asked()
    if (!own) return
    try {
      const found: Copied = await body(
        POST('/api/answers/{handle}/copied', {
          params: { path: own.path },
          body: { axis: 'rows' as const, members: [], ...wanted, dress: own.dress },
        }),
      )
      await put(found.text, found.html)
      notice.tell(`Copied ${counted(found.rows, 'row')} and ${counted(found.columns, 'column')}, with their headers.`)
    } catch (error) {
      problem.tell(error, () => copy(wanted))
    }
  }

  function copyTable(): Promise<void> {
    return copy({})
  }

  function copySelected(): Promise<void> {
    const axis = selection.selected[0]?.axis ?? 'rows'
    const members = selection.selected.map(({ member }) => ({
      dimension: member.dimension,
      hierarchy: member.hierarchy,
      path: member.path,
    }))
    return copy({ members, axis })
  }

  function copyBlock({ rows, columns }: Block): Promise<void> {
    return copy({ rows: [rows[0], rows[1] + 1], columns: [columns[0], columns[1] + 1] })
  }

  async function copyText(text: string): Promise<void> {
    await put(text, text)
    notice.tell(`Copied ${text}.`)
  }

  return { copyTable, copySelected, copyBlock, copyText }
}
