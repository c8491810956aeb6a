import { useStorage } from '@vueuse/core'
import { computed, type Ref } from 'vue'

interface Kept {
  /** What somebody folded or unfolded by hand. */
  turned: Record<string, boolean>
  /** The folders that were in use last. */
  lately: string[]
}

/** What of a model's catalogue stands open: remembered where somebody turned it, else as is said. */
export function useFolds(model: Ref<string>) {
  const all = useStorage<Record<string, Kept>>('dastan-folds', {})
  const kept = computed<Kept>(() => all.value[model.value] ?? { turned: {}, lately: [] })
  const lately = computed(() => kept.value.lately)

  function keep(changes: Partial<Kept>): void {
    all.value = { ...all.value, [model.value]: { ...kept.value, ...changes } }
  }

  function isOpen(key: string, otherwise: boolean): boolean {
    return kept.value.turned[key] ?? otherwise
  }

  function turn(key: string, isOpenNow: boolean): void {
    keep({ turned: { ...kept.value.turned, [key]: !isOpenNow } })
  }

  /** Remembers the folders that are in use, for when none is. */
  function use(folders: string[]): void {
    if (folders.length && folders.join('\n') !== lately.value.join('\n')) keep({ lately: folders })
  }

  return { isOpen, turn, lately, use }
}

export type Folds = ReturnType<typeof useFolds>
