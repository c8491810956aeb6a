import { defineStore } from 'pinia'
import { ApiError, POST, body } from '@/api/client'
import type { Analysis } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import { useWaiting } from '../waiting'

type Dress = NonNullable<Analysis['dress']>
export type FileKind = 'xlsx' | 'csv' | 'parquet' | 'arrow'

/** A file to the browser, named as the analysis is. */
function save(file: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(file)
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}

/** A file that comes once all of it is written. */
function whole(kind: Exclude<FileKind, 'csv'>, handle: string, dress: Dress, question: string) {
  const asked = { body: { dress }, parseAs: 'blob' as const }
  if (kind === 'xlsx') return body(POST('/api/answers/{handle}/table.xlsx', { ...asked, params: { path: { handle }, query: { question } } }))
  return body(POST('/api/answers/{handle}/table.{kind}', { ...asked, params: { path: { handle, kind }, query: { question } } }))
}

/** Takes the whole table away as a file; one that takes its time can be followed, and taken back. */
export const useTaking = defineStore('taking', () => {
  const workspace = useWorkspace()
  const problem = useProblem()
  const { waiting, follow, takeBack } = useWaiting()

  async function take(name: string, kind: FileKind): Promise<void> {
    const handle = workspace.answered?.answered?.handle
    const dress = workspace.document?.dress
    if (!handle || !dress) return
    try {
      const asked = { params: { path: { handle } }, body: { dress }, parseAs: 'blob' as const }
      // A CSV file begins to come at once; a workbook has to be whole.
      const file =
        kind === 'csv'
          ? await body(POST('/api/answers/{handle}/table.csv', asked))
          : await follow((question) => whole(kind, handle, dress, question), 'Writing the file')
      save(file as unknown as Blob, `${name.replaceAll(/[^\p{L}\p{N} ,.-]/gu, '-').slice(0, 80)}.${kind}`)
    } catch (error) {
      // One that was taken back is wanted no more.
      if (!(error instanceof ApiError) || error.code !== 'cancelled') problem.tell(error, () => take(name, kind))
    }
  }

  return { waiting, take, takeBack }
})
