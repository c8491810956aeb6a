import { usePreferredDark, useStorage } from '@vueuse/core'
import { computed, watchEffect } from 'vue'
import { useTheme } from 'vuetify'

/** The person's choice of light or dark; the system's until they choose. */
export function useThemeChoice() {
  const theme = useTheme()
  const chosen = useStorage<'light' | 'dark' | ''>('dastan-theme', '')
  const prefersDark = usePreferredDark()
  const isDark = computed(() => (chosen.value || (prefersDark.value ? 'dark' : 'light')) === 'dark')
  watchEffect(() => theme.change(isDark.value ? 'dark' : 'light'))
  function toggle(): void {
    chosen.value = isDark.value ? 'light' : 'dark'
  }
  return { isDark, toggle }
}
