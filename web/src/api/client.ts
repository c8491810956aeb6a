import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

type Schemas = components['schemas']
type Problem = Schemas['Problem']

/** What the server could not do, in its own words: what happened, and what to do next. */
export class ApiError extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly hint: string,
    readonly status: number,
    readonly details: Record<string, unknown> = {},
  ) {
    super(message)
  }
}

let csrf = ''

/** Sets the token that every changing request carries. */
export function useCsrf(token: string): void {
  csrf = token
}

const client = createClient<paths>({ baseUrl: '/' })
client.use({
  onRequest({ request }) {
    if (csrf && request.method !== 'GET') request.headers.set('x-dastan-csrf', csrf)
    return request
  },
})

export const { GET, POST, PUT, DELETE } = client

interface Reply<T> {
  data?: T
  error?: unknown
  response: Response
}

/** The body of a reply; throws an ApiError that is fit to be shown. */
export async function body<T>(reply: Promise<Reply<T>>): Promise<T> {
  const { data, error, response } = await reply.catch(() => {
    throw new ApiError('offline', 'The server does not answer.', 'Check that it runs; your last step is kept here.', 0)
  })
  if (error === undefined && response.ok) return data as T
  const problem = error as Partial<Problem> | undefined
  throw new ApiError(
    problem?.code ?? 'unreadable',
    problem?.detail ?? `The server answered ${response.status}.`,
    problem?.hint ?? 'Try again.',
    response.status,
    problem?.details ?? {},
  )
}
