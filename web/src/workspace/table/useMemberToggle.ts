import { computed } from 'vue'
import type { Gesture, MemberHeader } from '@/api/types'
import { useWorkspace } from '../store'

/** Opens or closes a header: into its next level, or into the next step of a way down. */
export function toggleGesture(member: MemberHeader, axis: 'rows' | 'columns'): Gesture {
  const { dimension, hierarchy, path, opens_into: into } = member
  if (!into) return { kind: member.is_open ? 'close_member' : 'open_member', dimension, hierarchy, path }
  const step = { dimension: into.dimension, hierarchy: into.hierarchy, under: { members: into.members } }
  return member.is_open ? { kind: 'stop_breaking_down', ...step } : { kind: 'break_down', axis, ...step }
}

/** Opening and closing a member from its header. */
export function useMemberToggle(member: () => MemberHeader | null | undefined, axis: 'rows' | 'columns') {
  const workspace = useWorkspace()
  const toggleWords = computed(() => `${member()?.is_open ? 'Close' : 'Open'} ${member()?.caption ?? ''}`)
  function toggle(): void {
    const found = member()
    if (found) void workspace.act(toggleGesture(found, axis))
  }
  return { toggle, toggleWords }
}
