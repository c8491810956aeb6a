import { refDebounced } from '@vueuse/core'
import { computed, ref, shallowReactive, watch } from 'vue'
import { GET, body } from '@/api/client'
import type { ListedMember, MemberPath } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { keyOf } from './picks'

export interface TreeLine {
  key: string
  member: ListedMember | null
  depth: number
  isOpen: boolean
  /** Set on the line that fetches the rest of a long branch. */
  more?: { path: MemberPath; start: number; left: number }
}

interface Branch {
  members: ListedMember[]
  count: number
}

/** A hierarchy's members as lines: branches fetched when opened, or what a search finds. */
export function useMemberTree(model: string, dimension: string, hierarchy: string) {
  const problem = useProblem()
  const branches = shallowReactive(new Map<string, Branch>())
  const open = shallowReactive(new Set<string>())
  const words = ref('')
  const settled = refDebounced(words, 120)
  const found = ref<Branch | null>(null)

  async function ask(query: { path?: string; search?: string; start?: number }): Promise<Branch> {
    const params = { path: { model }, query: { dimension, hierarchy, ...query } }
    return body(GET('/api/models/{model}/members', { params }))
  }

  async function fetch(path: MemberPath, start = 0): Promise<void> {
    const key = keyOf(path)
    try {
      const page = await ask({ path: key, start })
      const before = start ? (branches.get(key)?.members ?? []) : []
      branches.set(key, { members: [...before, ...page.members], count: page.count })
    } catch (error) {
      problem.tell(error)
    }
  }

  async function turn(member: ListedMember): Promise<void> {
    const key = keyOf(member.path)
    if (open.delete(key)) return
    if (!branches.has(key)) await fetch(member.path)
    open.add(key)
  }

  let asked = 0
  watch(settled, async (text) => {
    const mine = ++asked
    if (!text.trim()) {
      found.value = null
      return
    }
    const page = await ask({ search: text }).catch(() => null)
    if (mine === asked) found.value = page
  })

  function linesBelow(path: MemberPath, depth: number): TreeLine[] {
    const branch = branches.get(keyOf(path))
    if (!branch) return []
    const lines = branch.members.flatMap((member): TreeLine[] => {
      const key = keyOf(member.path)
      const line = { key, member, depth, isOpen: open.has(key) }
      return line.isOpen ? [line, ...linesBelow(member.path, depth + 1)] : [line]
    })
    const left = branch.count - branch.members.length
    if (left > 0) {
      const more = { path, start: branch.members.length, left }
      lines.push({ key: `${keyOf(path)}+`, member: null, depth, isOpen: false, more })
    }
    return lines
  }

  const lines = computed<TreeLine[]>(() => {
    if (!found.value) return linesBelow([], 0)
    return found.value.members.map((member) => ({ key: keyOf(member.path), member, depth: 0, isOpen: false }))
  })
  const unlisted = computed(() => (found.value ? found.value.count - found.value.members.length : 0))
  const isSearching = computed(() => found.value !== null)
  void fetch([])

  return { words, lines, unlisted, isSearching, turn, fetch }
}
