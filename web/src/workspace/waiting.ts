import { ref, shallowRef } from 'vue'
import { DELETE, GET } from '@/api/client'

export interface Waiting {
  /** What is being done: "Still counting". */
  doing: string
  /** How many in a hundred parts are answered; 0 while that is not known. */
  share: number
  words: string
}

const PATIENCE_MS = 900
const LOOK_MS = 400

/** "1st", "2nd", "11th". */
function ordinal(number: number): string {
  const ending = ['th', 'st', 'nd', 'rd'][number % 100 > 10 && number % 100 < 14 ? 0 : number % 10] ?? 'th'
  return `${number}${ending}`
}

/** Follows a question once it takes longer than a moment, and can take it back. */
export function useWaiting() {
  const waiting = shallowRef<Waiting | null>(null)
  const question = ref('')
  let count = 0

  async function follow<T>(ask: (question: string) => Promise<T>, doing = 'Still counting'): Promise<T> {
    const name = `${Date.now().toString(36)}-${(count += 1)}`
    question.value = name
    const timer = window.setInterval(() => void look(name), LOOK_MS)
    const started = performance.now()
    try {
      return await ask(name)
    } finally {
      window.clearInterval(timer)
      waiting.value = null
      question.value = ''
    }

    async function look(of: string): Promise<void> {
      if (performance.now() - started < PATIENCE_MS) return
      const { data } = await GET('/api/questions/{name}', { params: { path: { name: of } } })
      if (question.value !== of) return
      const isKnown = data && data.total > 0
      waiting.value = {
        doing,
        share: isKnown ? (100 * data.done) / data.total : 0,
        words: data?.place
          ? `: ${ordinal(data.place)} in the queue`
          : isKnown
            ? `: ${data.done} of ${data.total} parts`
            : '',
      }
    }
  }

  function takeBack(): void {
    if (question.value) void DELETE('/api/questions/{name}', { params: { path: { name: question.value } } })
  }

  return { waiting, follow, takeBack }
}
