<script setup lang="ts">
// Which members to keep or leave out: one slip of paper, one question.
import { mdiMenuDown, mdiMenuRight } from '@mdi/js'
import { computed, ref } from 'vue'
import type { MemberPath, Prompt } from '@/api/types'
import { useAsking } from '../asking'
import { useWorkspace } from '../store'
import type { Picking } from '../thingMenu'
import { keyOf, pickState, toggled } from './picks'
import { useMemberTree } from './useMemberTree'

const props = defineProps<{ picking: Picking; prompt?: Prompt }>()
const asking = useAsking()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const { dimension, hierarchy } = props.picking
const tree = useMemberTree(workspace.draft?.model ?? '', dimension, hierarchy)
const present = (workspace.document?.question?.filters ?? [])
  .filter((each) => each.kind === 'members')
  .filter((each) => each.dimension === dimension && each.hierarchy === hierarchy && !each.level && !each.prompt)
const edited = present.find((each) => each.action === props.picking.action) ?? present[0]
const action = ref<'keep' | 'leave_out'>(edited?.action ?? 'keep')
const picked = ref(new Map<string, MemberPath>((props.prompt ? (asking.present?.members ?? props.prompt.members) : (edited?.members ?? [])).map((path) => [keyOf(path), path])))
const caption = computed(() => {
  const found = workspace.catalogue?.dimensions.find((each) => each.name === dimension)
  return found?.hierarchies.find((each) => each.name === hierarchy)?.caption ?? found?.caption ?? dimension
})
const countWords = computed(() => (picked.value.size === 0 ? 'Nothing picked' : `${picked.value.size} picked`))
const applyWords = computed(() => (props.prompt ? 'Answer' : action.value === 'keep' ? 'Keep these' : 'Leave these out'))

function pick(path: MemberPath): void {
  picked.value = toggled(picked.value, path)
}

function apply(): void {
  const members = [...picked.value.values()]
  if (props.prompt) {
    void asking.answer([], members)
    return
  }
  // With both kinds of filter in force, only the edited one changes.
  const isAlone = present.length < 2
  void workspace.act({ kind: 'filter_members', dimension, hierarchy, action: action.value, members, is_alone: isAlone })
  emit('close')
}

function lift(): void {
  if (edited) void workspace.act({ kind: 'filter_members', dimension, hierarchy, action: edited.action, members: [], is_alone: false })
  emit('close')
}
</script>

<template>
  <v-dialog :model-value="true" width="430" @update:model-value="emit('close')">
    <v-card class="picker" :aria-label="`Members of ${caption}`">
      <h2>{{ prompt?.caption ?? caption }}</h2>
      <div v-if="!prompt" class="ways" role="radiogroup" aria-label="What to do with the picked members">
        <label><input v-model="action" type="radio" value="keep" /> keep only these</label>
        <label><input v-model="action" type="radio" value="leave_out" /> leave these out</label>
      </div>
      <v-text-field v-model="tree.words.value" :placeholder="`Find in ${caption}`" :aria-label="`Find in ${caption}`" autofocus clearable />
      <div class="tree" role="tree">
        <div v-for="line in tree.lines.value" :key="line.key" class="line" role="treeitem" :aria-level="line.depth + 1" :style="{ paddingLeft: `${line.depth * 18}px` }">
          <template v-if="line.member">
            <button v-if="line.member.can_open && !tree.isSearching.value" class="plain-button turn" :aria-label="`Look into ${line.member.caption}`" :aria-expanded="line.isOpen" @click="tree.turn(line.member)">
              <v-icon :icon="line.isOpen ? mdiMenuDown : mdiMenuRight" size="18" />
            </button>
            <span v-else class="turn" />
            <label class="member" :class="pickState(picked, line.member.path)">
              <input
                type="checkbox"
                :checked="['picked', 'under'].includes(pickState(picked, line.member.path))"
                :indeterminate="pickState(picked, line.member.path) === 'partly'"
                :disabled="pickState(picked, line.member.path) === 'under'"
                @change="pick(line.member.path)"
              />
              <span :class="{ nowhere: line.member.is_nowhere }">{{ line.member.caption }}</span>
              <span v-if="tree.isSearching.value" class="soft above">{{ [line.member.level, ...line.member.above].join(' · ') }}</span>
            </label>
          </template>
          <button v-else-if="line.more" class="plain-button soft more" @click="tree.fetch(line.more.path, line.more.start)">{{ line.more.left }} more…</button>
        </div>
        <p v-if="tree.isSearching.value && !tree.lines.value.length" class="soft">No member is called that.</p>
        <p v-if="tree.unlisted.value" class="soft">{{ tree.unlisted.value }} more are found; write more of the name.</p>
      </div>
      <footer>
        <span class="soft">{{ countWords }}</span>
        <v-btn v-if="edited" @click="lift">Lift the filter</v-btn>
        <span class="space" />
        <v-btn @click="emit('close')">Cancel</v-btn>
        <v-btn variant="flat" color="primary" :disabled="!picked.size && !edited" @click="apply">{{ applyWords }}</v-btn>
      </footer>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.picker {
  display: flex;
  flex-direction: column;
  gap: 10px;
  max-height: 80vh;
  padding: 18px 20px 14px;
}

h2 {
  margin: 0;
  font: 600 20px/26px var(--serif);
}

.ways {
  display: flex;
  gap: 18px;
}

.ways input,
.member input {
  accent-color: rgb(var(--v-theme-primary));
}

.tree {
  flex: 1;
  min-height: 220px;
  overflow: auto;
  border-top: 1px solid rgb(var(--v-theme-hair));
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.line {
  display: flex;
  align-items: center;
  min-height: 25px;
}

.turn {
  width: 20px;
}

.member {
  display: flex;
  gap: 7px;
  align-items: center;
  min-width: 0;
  white-space: nowrap;
}

.picked {
  font-weight: 600;
}

.nowhere {
  font-style: italic;
}

.above {
  overflow: hidden;
  font-size: 12px;
  font-weight: 400;
  text-overflow: ellipsis;
}

.more {
  padding-left: 20px;
  text-decoration: underline;
}

footer {
  display: flex;
  gap: 6px;
  align-items: center;
}

.space {
  flex: 1;
}
</style>
