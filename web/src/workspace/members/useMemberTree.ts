import { refDebounced } from '@vueuse/core'
import { computed, ref, shallowReactive, watch } from 'vue'
import type { ListedMember, MemberPath } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { keyOf } from './picks'

export interface TreeLine {
  key: string
  member: ListedMember | null
  depth: number
  isOpen: boolean
  /** Set on the hairline above the members of a branch that have no records: how many these are. */
  without?: number
  /** Set on a line that stands for members not fetched yet: it fetches them when it comes into sight. */
  more?: { path: MemberPath; start: number; left: number }
}

/** Some members of a branch, or of what a search finds, out of how many. */
export interface Branch {
  members: ListedMember[]
  count: number
  without_records: number
}

/** Which members are wanted: below a path from one on, all at a level below it, or those that a search finds. */
export interface AskedMembers {
  path: MemberPath
  start: number
  search: string
  level?: string
}

/** A hierarchy's members as lines: branches asked for as they come into sight, or what a search finds. */
export function useMemberTree(askFor: (asked: AskedMembers) => Promise<Branch>) {
  const problem = useProblem()
  const branches = shallowReactive(new Map<string, Branch>())
  const open = shallowReactive(new Set<string>())
  const asking = new Set<string>()
  const words = ref('')
  const settled = refDebounced(words, 120)
  const found = ref<Branch | null>(null)

  /** Rises when all is asked anew: what was asked before that is let go when it comes. */
  let round = 0

  function ask(asked: Partial<AskedMembers>): Promise<Branch> {
    return askFor({ path: [], start: 0, search: '', ...asked })
  }

  async function fetch(path: MemberPath, start = 0): Promise<void> {
    const mine = round
    const key = keyOf(path)
    const wanted = `${mine}:${key}:${start}`
    if (asking.has(wanted)) return
    asking.add(wanted)
    try {
      const page = await ask({ path, start })
      if (mine !== round) return
      const before = start ? (branches.get(key)?.members ?? []) : []
      branches.set(key, { ...page, members: [...before, ...page.members] })
    } catch (error) {
      problem.tell(error)
    } finally {
      asking.delete(wanted)
    }
  }

  async function turn(member: ListedMember): Promise<void> {
    const key = keyOf(member.path)
    if (open.delete(key)) return
    if (!branches.has(key)) await fetch(member.path)
    open.add(key)
  }

  /** All members of a level below a path; those next to a member; each fetched at once. */
  async function below(path: MemberPath, level: string): Promise<ListedMember[]> {
    return (await ask({ path, level })).members
  }

  async function siblings(path: MemberPath, level: string): Promise<ListedMember[]> {
    return below(path.slice(0, -1), level)
  }

  let asked = 0
  watch(settled, async (text) => {
    const mine = ++asked
    if (!text?.trim()) {
      found.value = null
      return
    }
    const page = await ask({ search: text }).catch(() => null)
    if (mine === asked) found.value = page
  })

  function linesBelow(path: MemberPath, depth: number): TreeLine[] {
    const branch = branches.get(keyOf(path))
    if (!branch) return []
    const lines: TreeLine[] = []
    branch.members.forEach((member, place) => {
      const key = keyOf(member.path)
      if (branch.without_records && place === branch.count - branch.without_records) {
        lines.push({ key: `${keyOf(path)}-`, member: null, depth, isOpen: false, without: branch.without_records })
      }
      const isOpen = open.has(key)
      lines.push({ key, member, depth, isOpen })
      if (isOpen) lines.push(...linesBelow(member.path, depth + 1))
    })
    const left = branch.count - branch.members.length
    if (left > 0) {
      const more = { path, start: branch.members.length, left }
      lines.push({ key: `${keyOf(path)}+${branch.members.length}`, member: null, depth, isOpen: false, more })
    }
    return lines
  }

  const lines = computed<TreeLine[]>(() => {
    if (!found.value) return linesBelow([], 0)
    return found.value.members.map((member) => ({ key: keyOf(member.path), member, depth: 0, isOpen: false }))
  })
  const unlisted = computed(() => (found.value ? found.value.count - found.value.members.length : 0))
  const isSearching = computed(() => found.value !== null)

  /** Asks for all that is in sight anew; what stands there stays until it comes. */
  function begin(): void {
    round += 1
    for (const key of [...branches.keys()]) if (key !== keyOf([]) && !open.has(key)) branches.delete(key)
    void fetch([])
    for (const key of open) void fetch(JSON.parse(key) as MemberPath)
  }
  begin()

  return { words, lines, unlisted, isSearching, turn, fetch, begin, below, siblings }
}
