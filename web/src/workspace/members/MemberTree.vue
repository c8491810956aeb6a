<script setup lang="ts">
// The lines of a member tree: only those in sight are drawn, so that a hundred thousand stay fluent.
import { mdiMenuDown, mdiMenuRight } from '@mdi/js'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch } from 'vue'
import type { ListedMember, MemberPath } from '@/api/types'
import { pickState } from './picks'
import type { TreeLine, useMemberTree } from './useMemberTree'

const props = defineProps<{
  tree: ReturnType<typeof useMemberTree>
  picked: ReadonlyMap<string, MemberPath>
  write: (value: ListedMember['value']) => string
  caption: string
}>()
const emit = defineEmits<{ pick: [member: ListedMember]; range: [members: ListedMember[]] }>()

const LINE_HEIGHT = 25
const scroller = ref<HTMLElement | null>(null)
const at = ref(0)
const anchor = ref(0)
const lines = computed(() => props.tree.lines.value)
const virtualizer = useVirtualizer(
  computed(() => ({
    count: lines.value.length,
    getScrollElement: () => scroller.value,
    estimateSize: () => LINE_HEIGHT,
    overscan: 6,
  })),
)
const shown = computed(() =>
  virtualizer.value.getVirtualItems().flatMap((item) => {
    const line = lines.value[item.index]
    return line ? [{ line, index: item.index, top: item.start }] : []
  }),
)
const height = computed(() => lines.value.length * LINE_HEIGHT)

watch(shown, (now) => {
  for (const { line } of now) if (line.more) void props.tree.fetch(line.more.path, line.more.start)
})
watch(
  () => props.tree.isSearching.value,
  () => (at.value = 0),
)

function state(line: TreeLine): string {
  return line.member ? pickState(props.picked, line.member.path) : 'not'
}

function click(event: MouseEvent, line: TreeLine, index: number): void {
  at.value = index
  if (!line.member || state(line) === 'under') return
  if (event.shiftKey) {
    const [first, last] = [Math.min(anchor.value, index), Math.max(anchor.value, index)]
    const level = line.member.level
    emit(
      'range',
      lines.value.slice(first, last + 1).flatMap((each) => (each.member?.level === level ? [each.member] : [])),
    )
  } else {
    anchor.value = index
    emit('pick', line.member)
  }
}

async function go(index: number): Promise<void> {
  at.value = Math.min(Math.max(index, 0), lines.value.length - 1)
  virtualizer.value.scrollToIndex(at.value)
  await nextTick()
}

async function key(event: KeyboardEvent): Promise<void> {
  const line = lines.value[at.value]
  const member = line?.member
  const handled: Partial<Record<string, () => unknown>> = {
    ArrowDown: () => go(at.value + 1),
    ArrowUp: () => go(at.value - 1),
    Home: () => go(0),
    End: () => go(lines.value.length - 1),
    PageDown: () => go(at.value + 10),
    PageUp: () => go(at.value - 10),
    ArrowRight: () => member?.can_open && !line?.isOpen && props.tree.turn(member),
    ArrowLeft: () =>
      line?.isOpen && member
        ? props.tree.turn(member)
        : go(lines.value.findLastIndex((each, place) => place < at.value && each.depth < (line?.depth ?? 0))),
    ' ': () => member && state(line!) !== 'under' && emit('pick', member),
  }
  const act = handled[event.key]
  if (!act) return
  event.preventDefault()
  await act()
}
</script>

<template>
  <div
    ref="scroller"
    class="tree"
    role="tree"
    tabindex="0"
    aria-multiselectable="true"
    :aria-label="`Members of ${caption}`"
    :aria-activedescendant="lines.length ? `member-${at}` : undefined"
    @keydown="key"
  >
    <div class="all" role="presentation" :style="{ height: `${height}px` }">
      <div
        v-for="{ line, index, top } in shown"
        :id="`member-${index}`"
        :key="line.key"
        class="line"
        :class="{ at: index === at, hairline: line.without, bare: line.member && !line.member.has_records }"
        :role="line.member ? 'treeitem' : 'presentation'"
        :aria-level="line.member ? line.depth + 1 : undefined"
        :aria-expanded="line.member?.can_open && !tree.isSearching.value ? line.isOpen : undefined"
        :aria-selected="line.member ? ['picked', 'under'].includes(state(line)) : undefined"
        :style="{ transform: `translateY(${top}px)`, paddingLeft: `${line.depth * 18 + 4}px` }"
        @click="click($event, line, index)"
      >
        <template v-if="line.member">
          <span
            v-if="line.member.can_open && !tree.isSearching.value"
            class="turn"
            aria-hidden="true"
            @click.stop="tree.turn(line.member)"
            ><v-icon :icon="line.isOpen ? mdiMenuDown : mdiMenuRight" size="18"
          /></span>
          <span v-else class="turn" />
          <span class="box" :class="state(line)" aria-hidden="true" />
          <span class="caption" :class="[state(line), { nowhere: line.member.is_nowhere }]">{{
            line.member.caption
          }}</span>
          <span v-if="tree.isSearching.value" class="soft above">{{
            [line.member.level, ...line.member.above].join(' · ')
          }}</span>
          <span class="value">{{ write(line.member.value) }}</span>
        </template>
        <span v-else-if="line.without" class="soft"
          >{{ line.without.toLocaleString('en-GB') }} without records under the other filters</span
        >
        <span v-else-if="line.more" class="soft">{{ line.more.left.toLocaleString('en-GB') }} more…</span>
      </div>
    </div>
    <p v-if="tree.isSearching.value && !lines.length" class="soft none">No member is called that.</p>
  </div>
</template>

<style scoped>
.tree {
  flex: 1;
  min-height: 260px;
  overflow: auto;
  border-top: 1px solid rgb(var(--v-theme-hair));
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.all {
  position: relative;
}

.line {
  position: absolute;
  top: 0;
  left: 0;
  display: flex;
  gap: 6px;
  align-items: center;
  width: 100%;
  height: 25px;
  white-space: nowrap;
  cursor: pointer;
}

.line:hover {
  background: rgb(var(--v-theme-hair), 55%);
}

.tree:focus-visible .at {
  outline: 2px solid rgb(var(--v-theme-secondary));
  outline-offset: -2px;
}

.hairline {
  font-size: 12px;
  cursor: default;
  border-top: 1px solid rgb(var(--v-theme-rule));
}

.bare .caption {
  color: rgb(var(--v-theme-soft));
}

.turn {
  flex: none;
  width: 18px;
}

.box {
  flex: none;
  width: 13px;
  height: 13px;
  border: 1px solid rgb(var(--v-theme-soft));
  border-radius: 2px;
}

.box.picked {
  background: rgb(var(--v-theme-secondary));
  border-color: rgb(var(--v-theme-secondary));
}

.box.under {
  background: rgb(var(--v-theme-secondary-tint));
}

.box.partly {
  background: linear-gradient(135deg, rgb(var(--v-theme-secondary)) 50%, transparent 50%);
}

.caption.picked {
  font-weight: 600;
}

.nowhere {
  font-style: italic;
}

.caption,
.above {
  overflow: hidden;
  text-overflow: ellipsis;
}

.above {
  font-size: 12px;
}

.value {
  flex: 1;
  padding-right: 8px;
  text-align: right;
}

.none {
  padding: 4px 8px;
}
</style>
