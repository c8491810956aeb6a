import { defineStore } from 'pinia'
import { ApiError, POST, body } from '@/api/client'
import { useProblem } from '@/shell/problem'
import { save } from '../chart/download'
import { useWorkspace } from '../store'
import { useWaiting } from '../waiting'

export type FileKind = 'xlsx' | 'ods' | 'pdf' | 'html' | 'csv' | 'parquet' | 'arrow'

/** Takes the whole table away as a file; one that takes its time can be followed, and taken back. */
export const useTaking = defineStore('taking', () => {
  const workspace = useWorkspace()
  const problem = useProblem()
  const { waiting, follow, takeBack } = useWaiting()

  /** `withRecords`: in a workbook, the records behind the table on sheets of their own. */
  async function take(name: string, kind: FileKind, withRecords = false): Promise<void> {
    const handle = workspace.answered?.answered?.handle
    const dress = workspace.document?.dress
    if (!handle || !dress) return
    try {
      const asked = { body: { dress, draft: workspace.draft?.id, with_records: withRecords }, parseAs: 'blob' as const }
      const file = await follow(
        (question) =>
          body(
            POST('/api/answers/{handle}/table.{kind}', {
              ...asked,
              params: { path: { handle, kind }, query: { question } },
            }),
          ),
        'Writing the file',
      )
      save(file as unknown as Blob, `${name.replaceAll(/[^\p{L}\p{N} ,.-]/gu, '-').slice(0, 80)}.${kind}`)
    } catch (error) {
      // One that was taken back is wanted no more.
      if (!(error instanceof ApiError) || error.code !== 'cancelled')
        problem.tell(error, () => take(name, kind, withRecords))
    }
  }

  return { waiting, take, takeBack }
})
