<script setup lang="ts">
// Joins members into one that has the records of all; or tells a joint member anew.
import { computed, ref } from 'vue'
import type { Thing } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { vFirstField } from '../firstField'
import { useWorkspace } from '../store'
import { useSelection } from '../table/selection'

const props = defineProps<{ thing: Thing }>()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const selection = useSelection()
const problem = useProblem()
const known = (workspace.shown?.joints ?? []).find(
  (each) =>
    !props.thing.more?.length &&
    each.joint.hierarchy === props.thing.hierarchy &&
    JSON.stringify(each.path) === JSON.stringify(props.thing.path),
)
// What is joined, each with its name: of a joint member what it joins, else what is selected.
const joined = ref(
  known
    ? known.joint.members.map((path, at) => ({ path, caption: known.joins[at] ?? '' }))
    : selection.selected
        .map((each) => ({ path: each.member.path, caption: each.member.caption }))
        .filter(
          (each, at, all) => all.findIndex((one) => JSON.stringify(one.path) === JSON.stringify(each.path)) === at,
        ),
)
const caption = ref(known?.joint.caption ?? '')
const how = ref<'together' | 'difference' | 'ratio'>(known?.joint.how ?? 'together')
const isAlone = ref(true)
// Two members can also be told apart: the first less the second.
const ways = computed(() => {
  const [first, second] = joined.value.map((each) => each.caption)
  if (joined.value.length !== 2) return []
  return [
    { how: 'together' as const, words: 'the records of both' },
    { how: 'difference' as const, words: `${first} less ${second}` },
    { how: 'ratio' as const, words: `${first} divided by ${second}` },
  ]
})
const made = computed(() => (ways.value.length ? how.value : 'together'))
const MEANINGS = {
  together: 'One member with the records of all of these, each record once.',
  difference: 'One member with every number of the first less that of the second.',
  ratio: 'One member with every number of the first divided by that of the second.',
}
const wrong = ref('')
const proposed = computed(() =>
  made.value !== 'together'
    ? joined.value.map((each) => each.caption).join(made.value === 'ratio' ? ' divided by ' : ' less ')
    : joined.value
        .slice(0, 3)
        .map((each) => each.caption)
        .join(' + ') + (joined.value.length > 3 ? ' + …' : ''),
)

function drop(at: number): void {
  joined.value = joined.value.filter((_, place) => place !== at)
}

/** The second before the first. */
function turn(): void {
  joined.value = [...joined.value].reverse()
}

/** Closes once it is made: what is refused leaves everything as it was written. */
async function apply(): Promise<void> {
  const { dimension, hierarchy } = props.thing
  if (!joined.value.length || !dimension || !hierarchy) {
    wrong.value = 'Nothing is joined: choose one member or several.'
    return
  }
  const joint = {
    name: known?.joint.name ?? '',
    caption: caption.value.trim() || proposed.value,
    dimension,
    hierarchy,
    members: joined.value.map((each) => each.path),
    how: made.value,
    of_model: false,
  }
  const before = workspace.shown?.joints
  await workspace.act(known ? { kind: 'change_joint', joint } : { kind: 'make_joint', joint, alone: isAlone.value })
  if (workspace.shown?.joints === before) {
    wrong.value = [problem.problem?.message, problem.problem?.hint].filter(Boolean).join(' ')
    problem.clear()
    return
  }
  selection.clear()
  emit('close')
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    :aria-label="known ? 'Change a joint member' : 'Join members'"
    :model-value="true"
    width="440"
    @update:model-value="emit('close')"
  >
    <v-card>
      <form class="paper" @submit.prevent="apply">
        <h2>{{ known ? `What ${known.joint.caption} joins` : 'Join them' }}</h2>
        <p class="sentence">{{ MEANINGS[made] }}</p>
        <ul>
          <li v-for="(each, at) in joined" :key="JSON.stringify(each.path)">
            <span>{{ each.caption }}</span>
            <button
              v-if="joined.length > 1"
              type="button"
              class="plain-button soft"
              :aria-label="`Do not join ${each.caption}`"
              @click="drop(at)"
            >
              take out
            </button>
          </li>
        </ul>
        <div v-if="ways.length" role="radiogroup" aria-label="What it is" class="ways">
          <label v-for="each in ways" :key="each.how"
            ><input v-model="how" type="radio" :value="each.how" /> {{ each.words }}</label
          >
          <button v-if="made !== 'together'" type="button" class="plain-button soft" @click="turn">
            the other way round
          </button>
        </div>
        <v-text-field v-model="caption" label="Its name" :placeholder="proposed" persistent-placeholder v-first-field />
        <label v-if="!known"
          ><input v-model="isAlone" type="checkbox" /> leave those that it joins out of the table</label
        >
        <p v-if="!known" class="note soft">Its numbers are the same either way, and so are all totals.</p>
        <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
        <footer>
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn variant="flat" color="primary" type="submit">{{ known ? 'Change it' : 'Join' }}</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../keeping/slip.css" />
<style scoped>
ul {
  max-height: 160px;
  margin: 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}

.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
}

li {
  display: flex;
  justify-content: space-between;
  padding: 2px 0;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}
</style>
