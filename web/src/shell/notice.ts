import { useTimeoutFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { readonly, ref } from 'vue'

const SHOWN_MS = 5000

/** What was done where nothing on the screen shows it: told quietly for a while. */
export const useNotice = defineStore('notice', () => {
  const words = ref('')
  const { start } = useTimeoutFn(() => (words.value = ''), SHOWN_MS, { immediate: false })

  function tell(told: string): void {
    words.value = told
    start()
  }

  return { words: readonly(words), tell }
})
