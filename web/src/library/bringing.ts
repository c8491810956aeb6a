import { ref, shallowRef } from 'vue'
import { ApiError, DELETE, GET, POST, PUT, body } from '@/api/client'
import type { BroughtModel } from '@/api/types'
import { useWaiting } from '@/workspace/waiting'

const PART_BYTES = 2 ** 20

/** A file on its way to the server. */
export interface Sending {
  file: File
  sent: number
}

/**
 * Brings files to the server, part by part, and has a model made of them, or puts them into one in place of older ones;
 * what was interrupted goes on where it was. `into` is that model's name.
 */
export function useBringing(into: string | null) {
  const files = shallowRef<Sending[]>([])
  const trouble = ref('')
  const isBusy = ref(false)
  const { waiting, follow, takeBack } = useWaiting()
  let id = ''
  let isStopped = false

  /** Whether a model has the files now: which one, where it is new. False where it was stopped, or did not succeed: then
   * `trouble` says why. */
  async function bring(chosen: File[]): Promise<BroughtModel | boolean> {
    files.value = chosen.map((file) => ({ file, sent: 0 }))
    id = ''
    return again()
  }

  /** Goes on with what is there already. */
  async function again(): Promise<BroughtModel | boolean> {
    trouble.value = ''
    isBusy.value = true
    isStopped = false
    try {
      id ||= (await body(POST('/api/bringing'))).id
      const path = { id }
      const there = new Map(
        (await body(GET('/api/bringing/{id}', { params: { path } }))).files.map((each) => [each.name, each.bytes]),
      )
      // A name that is not taken is told before anything is sent.
      for (const each of files.value) if (!there.has(each.file.name)) await put(each, 0, new Blob())
      for (const each of files.value) await send(each, there.get(each.file.name) ?? 0)
      if (isStopped) return false
      if (into === null)
        return await follow((question) =>
          body(POST('/api/bringing/{id}/model', { params: { path, query: { question } } })),
        )
      const model = into
      await follow((question) =>
        body(POST('/api/bringing/{id}/into/{model}', { params: { path: { id, model }, query: { question } } })),
      )
      return true
    } catch (error) {
      if (!(error instanceof ApiError)) throw error
      if (error.code !== 'cancelled') trouble.value = `${error.message} ${error.hint}`
      return false
    } finally {
      isBusy.value = false
    }
  }

  async function send(each: Sending, from: number): Promise<void> {
    for (let at = from; at < each.file.size && !isStopped; at += PART_BYTES) {
      await put(each, at, each.file.slice(at, at + PART_BYTES))
      files.value = files.value.map((one) =>
        one.file === each.file ? { ...one, sent: Math.min(at + PART_BYTES, each.file.size) } : one,
      )
    }
  }

  async function put(each: Sending, offset: number, part: Blob): Promise<void> {
    const params = { path: { id, name: each.file.name }, query: { offset } }
    const headers = { 'content-type': 'application/octet-stream' }
    await body(
      PUT('/api/bringing/{id}/files/{name}', {
        params,
        headers,
        body: part as unknown as string,
        bodySerializer: (sent) => sent,
      }),
    )
  }

  /** Stops, and lets the server forget what it has of them. */
  async function stop(): Promise<void> {
    isStopped = true
    takeBack()
    if (id) await DELETE('/api/bringing/{id}', { params: { path: { id } } })
    id = ''
  }

  return { files, trouble, isBusy, waiting, bring, again, stop }
}
