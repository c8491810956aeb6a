import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import type { Prompt } from '@/api/types'
import { useWorkspace } from './store'
import type { Picking } from './thingMenu'

/** The questions that are being asked of the reader, one slip at a time. */
export const useAsking = defineStore('asking', () => {
  const workspace = useWorkspace()
  const names = ref<string[]>([])
  const known = computed(() => [
    ...(workspace.document?.question?.prompts ?? []),
    ...(workspace.catalogue?.prompts ?? []),
  ])
  const prompt = computed<Prompt | null>(() => known.value.find((each) => each.name === names.value[0]) ?? null)
  const present = computed(() =>
    workspace.document?.question?.answers?.find((each) => each.prompt === prompt.value?.name),
  )

  const picking = computed<Picking | null>(() => {
    const asked = prompt.value
    return asked?.dimension && asked.hierarchy
      ? { dimension: asked.dimension, hierarchy: asked.hierarchy, action: null }
      : null
  })

  let then: (() => void) | null = null

  /** Asks one question after the other, and goes on once all are answered. */
  function ask(wanted: readonly string[], goOn: (() => void) | null = null): void {
    names.value = [...wanted]
    then = goOn
  }

  function close(): void {
    names.value = []
    then = null
  }

  /** Answers the question that is asked, and goes on to the next. */
  async function answer(values: (string | number | boolean | null)[], members: Prompt['members'] = []): Promise<void> {
    const name = names.value[0]
    if (!name) return
    names.value = names.value.slice(1)
    await workspace.act({ kind: 'answer_prompt', answer: { prompt: name, values, members } })
    if (!names.value.length) {
      then?.()
      then = null
    }
  }

  return { prompt, present, picking, ask, answer, close }
})
