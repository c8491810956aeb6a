import { useLocalStorage } from '@vueuse/core'
import { computed, type Ref } from 'vue'

const LATELY = 2

interface Kept {
  /** What somebody folded or unfolded by hand. */
  turned: Record<string, boolean>
  /** The folders whose measures were put in last, the latest first. */
  lately: string[]
}

/** What of a model's catalogue stands open: remembered where somebody turned it, else what is in use or was lately. */
export function useFolds(model: Ref<string>) {
  const kept = computed(() => useLocalStorage<Kept>(`dastan.folds.${model.value}`, { turned: {}, lately: [] }).value)

  function isOpen(key: string, otherwise: boolean): boolean {
    return kept.value.turned[key] ?? otherwise
  }

  function turn(key: string, isOpenNow: boolean): void {
    kept.value.turned = { ...kept.value.turned, [key]: !isOpenNow }
  }

  function wasUsed(folder: string): boolean {
    return kept.value.lately.includes(folder)
  }

  function use(folder: string): void {
    if (kept.value.lately[0] !== folder) kept.value.lately = [folder, ...kept.value.lately.filter((each) => each !== folder)].slice(0, LATELY)
  }

  return { isOpen, turn, wasUsed, use }
}
