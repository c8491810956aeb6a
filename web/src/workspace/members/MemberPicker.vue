<script setup lang="ts">
// Which members to keep or leave out, by browsing, searching, or from a list; also the answer to a question for members.
import { computed, ref } from 'vue'
import { POST, body } from '@/api/client'
import type { Gesture, ListedMember, MemberPath, Prompt } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useAsking } from '../asking'
import { vFirstField } from '../firstField'
import PeriodForm from '../narrowing/PeriodForm.vue'
import { useWorkspace } from '../store'
import { numberWriter } from '../table/format'
import type { Picking } from '../thingMenu'
import MemberTree from './MemberTree.vue'
import { keyOf, toggled } from './picks'
import { useMemberTree } from './useMemberTree'

const props = defineProps<{ picking: Picking; prompt?: Prompt }>()
const emit = defineEmits<{ close: [] }>()
const asking = useAsking()
const problem = useProblem()
const workspace = useWorkspace()
const { dimension, hierarchy } = props.picking
const measure = computed(() => workspace.answered?.answered?.measures[0] ?? null)
const hasValues = ref(true)
const params = { path: { model: workspace.draft?.model ?? '' } }
const tree = useMemberTree((asked) => {
  const document = hasValues.value && measure.value && !asked.level ? workspace.document : null
  return body(POST('/api/models/{model}/members', { params, body: { dimension, hierarchy, ...asked, document } }))
})
const present = (workspace.document?.question?.filters ?? [])
  .filter((each) => each.kind === 'members')
  .filter(
    (each) => each.dimension === dimension && each.hierarchy === hierarchy && !each.level && !each.prompt && !each.list,
  )
const isElsewhere = !!props.picking.into
const edited = isElsewhere ? undefined : (present.find((each) => each.action === props.picking.action) ?? present[0])
const action = ref<'keep' | 'leave_out'>(edited?.action ?? 'keep')
const picked = ref(
  new Map<string, MemberPath>(
    (props.prompt
      ? (asking.present?.members ?? props.prompt.members)
      : (props.picking.present ?? edited?.members ?? [])
    ).map((path) => [keyOf(path), path]),
  ),
)
const entry = computed(() => workspace.catalogue?.dimensions.find((each) => each.name === dimension))
const levels = computed(() => entry.value?.hierarchies.find((each) => each.name === hierarchy)?.levels ?? [])
const caption = computed(() => {
  const found = entry.value
  return found?.hierarchies.find((each) => each.name === hierarchy)?.caption ?? found?.caption ?? dimension
})
const lists = computed(() =>
  props.prompt || isElsewhere
    ? []
    : (workspace.shown?.lists ?? []).filter((each) => each.dimension === dimension && each.hierarchy === hierarchy),
)
const way = ref<'members' | 'list' | 'period'>('members')
const pasted = ref('')
const unmatched = ref<string[]>([])
const matchedWords = ref('')
const countWords = computed(() => {
  if (!picked.value.size) return 'Nothing picked'
  const counts = new Map<number, number>()
  for (const path of picked.value.values()) counts.set(path.length, (counts.get(path.length) ?? 0) + 1)
  if (levels.value.length < 2) return `${picked.value.size.toLocaleString('en-GB')} picked`
  const parts = [...counts]
    .sort(([one], [other]) => one - other)
    .map(([depth, count]) => `${count.toLocaleString('en-GB')} × ${levels.value[depth - 1]?.caption.toLowerCase()}`)
  return `${parts.join(', ')} picked`
})
const applyWords = computed(() =>
  props.prompt ? 'Answer' : isElsewhere ? 'Take these' : action.value === 'keep' ? 'Keep these' : 'Leave these out',
)
const write = computed(() => {
  const writer = measure.value ? numberWriter(measure.value.format) : () => ''
  return (value: ListedMember['value']) => (hasValues.value ? writer(value) : '')
})
const last = ref<ListedMember | null>(null)
const deeper = computed(() => {
  const from = last.value?.path.length ?? 0
  return levels.value.slice(from)
})

function pick(member: ListedMember): void {
  last.value = member
  if (props.prompt && !props.prompt.many)
    picked.value = new Map(picked.value.has(keyOf(member.path)) ? [] : [[keyOf(member.path), member.path]])
  else picked.value = toggled(picked.value, member.path)
}

function addAll(members: readonly ListedMember[]): void {
  let found: ReadonlyMap<string, MemberPath> = picked.value
  if (members.length > 500)
    found = new Map([...found, ...members.map((each) => [keyOf(each.path), each.path] as const)])
  else for (const each of members) if (!found.has(keyOf(each.path))) found = toggled(found, each.path)
  picked.value = new Map(found)
}

async function doing(act: () => Promise<void>): Promise<void> {
  try {
    await act()
  } catch (error) {
    problem.tell(error)
  }
}

function pickBelow(level: string): Promise<void> {
  return doing(async () => {
    const from = last.value
    const found = await tree.below(from?.path ?? [], level)
    if (from) picked.value.delete(keyOf(from.path))
    addAll(found)
  })
}

function pickSiblings(): Promise<void> {
  return doing(async () => {
    const from = last.value
    const level = levels.value[(from?.path.length ?? 1) - 1]
    if (from && level) addAll(await tree.siblings(from.path, level.name))
  })
}

/** Of the members next to those that are picked, the others. */
function invert(): Promise<void> {
  return doing(async () => {
    const found = new Map<string, MemberPath>()
    const parents = new Map([...picked.value.values()].map((path) => [keyOf(path.slice(0, -1)), path]))
    if (!parents.size && levels.value[0]) parents.set('[]', [null])
    for (const path of parents.values()) {
      const level = levels.value[path.length - 1]
      if (!level) continue
      for (const each of await tree.siblings(path, level.name))
        if (!picked.value.has(keyOf(each.path))) found.set(keyOf(each.path), each.path)
    }
    picked.value = found
  })
}

function matchList(): Promise<void> {
  return doing(async () => {
    const lines = pasted.value
      .split(/[\n\t;]+/)
      .map((each) => each.trim())
      .filter(Boolean)
    const found = await body(
      POST('/api/models/{model}/members/match', { params, body: { dimension, hierarchy, lines } }),
    )
    addAll(found.members)
    unmatched.value = found.unmatched
    matchedWords.value = `${found.members.length.toLocaleString('en-GB')} found and picked`
  })
}

function act(gesture: Gesture): void {
  void workspace.act(gesture)
  emit('close')
}

function apply(): void {
  const members = [...picked.value.values()]
  if (props.prompt) {
    void asking.answer([], members)
    return
  }
  if (props.picking.into) {
    props.picking.into(members)
    emit('close')
    return
  }
  // With both kinds of filter in force, only the edited one changes.
  act({ kind: 'filter_members', dimension, hierarchy, action: action.value, members, is_alone: present.length < 2 })
}

function lift(): void {
  if (edited) act({ kind: 'filter_members', dimension, hierarchy, action: edited.action, members: [], is_alone: false })
}

function turnValues(): void {
  hasValues.value = !hasValues.value
  tree.begin()
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    :aria-label="`Members of ${caption}`"
    :model-value="true"
    width="520"
    @update:model-value="emit('close')"
  >
    <v-card class="picker">
      <header>
        <h2>{{ prompt?.caption ?? caption }}</h2>
        <div class="tabs" role="group" aria-label="How to pick">
          <button type="button" class="plain-button" :aria-pressed="way === 'members'" @click="way = 'members'">
            Browse
          </button>
          <button type="button" class="plain-button" :aria-pressed="way === 'list'" @click="way = 'list'">
            Paste a list
          </button>
          <button
            v-if="entry?.day && !prompt && !isElsewhere"
            type="button"
            class="plain-button"
            :aria-pressed="way === 'period'"
            @click="way = 'period'"
          >
            Period
          </button>
        </div>
      </header>
      <PeriodForm v-if="way === 'period' && entry?.day" :dimension="dimension" :day="entry.day" @act="act" />
      <template v-else>
        <div
          v-if="!prompt && !isElsewhere"
          class="ways"
          role="radiogroup"
          aria-label="What to do with the picked members"
        >
          <label><input v-model="action" type="radio" value="keep" /> keep only these</label>
          <label><input v-model="action" type="radio" value="leave_out" /> leave these out</label>
        </div>
        <template v-if="way === 'list'">
          <v-textarea
            v-model="pasted"
            rows="9"
            aria-label="Names or keys, one a line"
            placeholder="Names or keys, one a line"
            v-first-field
          />
          <div class="tools">
            <v-btn :disabled="!pasted.trim()" @click="matchList">Find these</v-btn
            ><span class="soft" role="status">{{ matchedWords }}</span>
          </div>
          <p v-if="unmatched.length" class="wrong">
            Not found: {{ unmatched.slice(0, 12).join(', ')
            }}{{ unmatched.length > 12 ? ` and ${unmatched.length - 12} more` : '' }}
          </p>
        </template>
        <template v-else>
          <v-text-field
            v-model="tree.words.value"
            :placeholder="`Find in ${caption}`"
            :aria-label="`Find in ${caption}`"
            v-first-field
            clearable
          />
          <div v-if="lists.length" class="tools" role="group" :aria-label="`Lists of ${caption}`">
            <span class="soft">{{ action === 'keep' ? 'Keep a list:' : 'Leave out a list:' }}</span>
            <v-btn
              v-for="list in lists"
              :key="list.name"
              size="small"
              :title="list.says"
              @click="act({ kind: 'filter_list', name: list.name, action })"
              >{{ list.caption }}</v-btn
            >
          </div>
          <MemberTree :tree="tree" :picked="picked" :write="write" :caption="caption" @pick="pick" @range="addAll" />
          <p v-if="tree.unlisted.value" class="soft">
            {{ tree.unlisted.value.toLocaleString('en-GB') }} more are found; write more of the name.
          </p>
          <div v-if="!prompt || prompt.many" class="tools">
            <v-btn v-for="level in deeper" :key="level.name" size="small" @click="pickBelow(level.name)">{{
              last
                ? `Every ${level.caption.toLowerCase()} below ${last.caption}`
                : `Every ${level.caption.toLowerCase()}`
            }}</v-btn>
            <v-btn v-if="last" size="small" @click="pickSiblings">{{ last.caption }} and all beside it</v-btn>
            <v-btn size="small" @click="invert">The others instead</v-btn>
            <v-btn v-if="measure" size="small" :aria-pressed="hasValues" @click="turnValues">{{
              hasValues ? `Without ${measure.caption}` : `With ${measure.caption}`
            }}</v-btn>
          </div>
        </template>
        <footer>
          <span class="soft" role="status">{{ countWords }}</span>
          <v-btn v-if="picked.size" size="small" @click="picked = new Map()">None</v-btn>
          <v-btn v-if="edited && !prompt" @click="lift">Lift the filter</v-btn>
          <span class="space" />
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn
            variant="flat"
            color="primary"
            :disabled="!picked.size && !edited && !(prompt && !prompt.required)"
            @click="apply"
            >{{ applyWords }}</v-btn
          >
        </footer>
      </template>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.picker {
  display: flex;
  flex-direction: column;
  gap: 8px;
  height: min(620px, 86vh);
  padding: 16px 20px 12px;
}

header {
  display: flex;
  gap: 12px;
  align-items: baseline;
  justify-content: space-between;
}

h2 {
  margin: 0;
  overflow: hidden;
  font: 600 20px/26px var(--serif);
  text-overflow: ellipsis;
  white-space: nowrap;
}

.tabs {
  display: flex;
  flex: none;
  gap: 12px;
}

.tabs [aria-pressed='true'] {
  font-weight: 600;
  border-bottom: 2px solid rgb(var(--v-theme-secondary));
}

.ways {
  display: flex;
  gap: 18px;
}

.picker :deep(.v-input) {
  flex: none;
}

.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
  align-items: center;
}

.wrong {
  margin: 0;
  color: rgb(var(--v-theme-error));
}

footer {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-top: auto;
}

.space {
  flex: 1;
}
</style>
