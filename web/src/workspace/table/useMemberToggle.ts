import { computed } from 'vue'
import type { MemberHeader } from '@/api/types'
import { useWorkspace } from '../store'

/** Opening and closing a member from its header. */
export function useMemberToggle(member: () => MemberHeader | null | undefined) {
  const workspace = useWorkspace()
  const toggleWords = computed(() => `${member()?.is_open ? 'Close' : 'Open'} ${member()?.caption ?? ''}`)
  function toggle(): void {
    const found = member()
    if (!found) return
    const { dimension, hierarchy, path } = found
    void workspace.act({ kind: found.is_open ? 'close_member' : 'open_member', dimension, hierarchy, path })
  }
  return { toggle, toggleWords }
}
