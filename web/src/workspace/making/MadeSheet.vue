<script setup lang="ts">
// One place for all that is made, in this analysis and in its model: what it is, where it is used, what is wrong with it.
import { mdiDotsHorizontal } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import { POST, body } from '@/api/client'
import type { MadeThing, Thing } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { vFirstField } from '../firstField'
import { useWorkspace } from '../store'
import { useThingMenu } from '../thingMenu'
import { dimensionThing, filterThing, listThing, measureThing, pathThing, wayThing } from '../things'
import { useLaying } from '../laying/laying'
import { useListing } from '../listing/listing'
import { useMaking } from './making'

const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const menu = useThingMenu()
const making = useMaking()
const laying = useLaying()
const listing = useListing()
const problem = useProblem()
const words = ref('')
const things = ref<MadeThing[] | null>(null)

watch(
  () => workspace.document,
  async (document) => {
    if (!document) return
    const asked = POST('/api/models/{model}/made', { params: { path: { model: document.model } }, body: document })
    things.value = await body(asked).then(
      (found) => found.things,
      (error: unknown) => (problem.tell(error), things.value),
    )
  },
  { immediate: true },
)

// A formula is changed at the right of the table, which has to be in sight.
watch(
  () => making.isOpen || laying.isOpen || listing.isOpen,
  (isOpen) => isOpen && emit('close'),
)

const found = computed(() => {
  const wanted = words.value.trim().toLocaleLowerCase()
  return (things.value ?? []).filter((each) =>
    [each.caption, each.says, each.text, each.kind].some((text) => text.toLocaleLowerCase().includes(wanted)),
  )
})
const parts = computed(() => [
  {
    caption: 'In this analysis',
    things: found.value.filter((each) => each.of === 'analysis'),
    none: 'Nothing was made in this analysis yet.',
  },
  { caption: 'In the model', things: found.value.filter((each) => each.of === 'model'), none: 'Nothing.' },
])

const SHARED = ['measure', 'list', 'layout', 'joint member'] as const
type Shared = (typeof SHARED)[number]
/** What was put into the model's draft just now, and where that is. */
const moved = ref('')

/** What of an analysis its model can have too. */
function sharedKind(each: MadeThing): Shared | null {
  if (each.of !== 'analysis' || each.fault || !workspace.catalogue?.may_shape) return null
  return SHARED.find((kind) => kind === each.kind) ?? null
}

async function share(each: MadeThing): Promise<void> {
  const document = workspace.document
  const kind = sharedKind(each)
  if (!document || !kind) return
  try {
    await body(
      POST('/api/modelling/{model}/moved', {
        params: { path: { model: document.model } },
        body: { document, kind, name: each.name },
      }),
    )
    moved.value = each.caption
  } catch (error) {
    problem.tell(error)
  }
}

function thingOf(each: MadeThing): Thing | null {
  if (each.kind === 'measure') return measureThing({ measure: each.name })
  // One of the model that was not taken in stands nowhere yet.
  if (each.kind === 'joint member')
    return each.path?.length ? pathThing(each.dimension, each.hierarchy, each.path) : null
  if (each.kind === 'way down') return wayThing(each.name)
  if (each.kind === 'list') return listThing(each.name)
  if (each.kind === 'sets' || each.kind === 'layout') return dimensionThing(each.dimension, each.hierarchy)
  return each.at === null || each.at === undefined ? null : filterThing(each.at)
}

function open(each: MadeThing, event: MouseEvent): void {
  const thing = thingOf(each)
  if (thing) void menu.open(thing, event.currentTarget as HTMLElement)
}

/** Makes another measure that begins with what this one is. */
function copy(each: MadeThing): void {
  making.open(null, each.text)
}
</script>

<template>
  <v-dialog aria-labelledby="made-title" :model-value="true" width="960" scrollable @update:model-value="emit('close')">
    <v-card class="sheet">
      <header>
        <h2 id="made-title">All that is made</h2>
        <input
          v-model="words"
          v-first-field
          class="search-field"
          type="search"
          placeholder="Find by name or formula"
          aria-label="Find by name or formula"
        />
      </header>
      <div class="lists">
        <p v-if="!things" class="soft">Looking…</p>
        <table v-else>
          <thead>
            <tr>
              <th>Name</th>
              <th>What it is</th>
              <th>Where it is used</th>
              <th />
            </tr>
          </thead>
          <tbody v-for="part in parts" :key="part.caption">
            <tr>
              <th colspan="4" class="small-caps part" scope="rowgroup">{{ part.caption }}</th>
            </tr>
            <tr v-for="each in part.things" :key="`${each.kind}/${each.name}`">
              <th scope="row" :class="{ made: each.of === 'analysis' }">
                {{ each.caption }}<span v-if="each.kind !== 'measure'" class="kind soft">{{ each.kind }}</span>
              </th>
              <td>
                <span :title="each.text">{{ each.says }}</span><span v-if="each.fault" class="fault">{{
                  each.fault
                }}</span>
              </td>
              <td class="soft">{{ each.used_by.join(', ') || (each.of === 'analysis' ? 'nowhere' : '') }}</td>
              <td class="acts">
                <button
                  v-if="each.text"
                  type="button"
                  class="plain-button soft"
                  :aria-label="`Make one like ${each.caption}`"
                  title="Make a measure that begins with this formula"
                  @click="copy(each)"
                >
                  copy
                </button>
                <button
                  v-if="sharedKind(each)"
                  type="button"
                  class="plain-button soft"
                  :aria-label="`to the model: ${each.caption}`"
                  title="Put it into the model's draft, so that everybody has it once that is published"
                  @click="share(each)"
                >
                  to the model
                </button>
                <button
                  v-if="thingOf(each)"
                  type="button"
                  class="plain-button"
                  :aria-label="`What can be done with ${each.caption}`"
                  aria-haspopup="menu"
                  @click="open(each, $event)"
                >
                  <v-icon :icon="mdiDotsHorizontal" size="16" />
                </button>
              </td>
            </tr>
            <tr v-if="!part.things.length">
              <td colspan="4" class="soft">{{ words ? `Nothing is called “${words}”.` : part.none }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-if="moved" class="moved" role="status">
        {{ moved }} is in the model's draft. Once that is published everybody has it.
        <router-link :to="{ name: 'model', params: { name: workspace.document?.model } }">To the model</router-link>
      </p>
      <footer><v-btn @click="emit('close')">Close</v-btn></footer>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.moved {
  margin: 0;
  padding: 4px 0;
}

.sheet {
  display: flex;
  flex-direction: column;
  height: min(680px, 86vh);
  padding: 18px 20px 14px;
}

footer {
  display: flex;
  justify-content: flex-end;
}

header {
  display: flex;
  gap: 16px;
  align-items: center;
  justify-content: space-between;
}

.search-field {
  width: 240px;
}

h2 {
  margin: 0;
  font: 600 20px/26px var(--serif);
}

.lists {
  flex: 1;
  min-height: 0;
  margin: 10px 0;
  overflow: auto;
}

table {
  width: 100%;
  border-collapse: collapse;
  text-align: left;
}

thead th {
  position: sticky;
  top: 0;
  font-weight: 500;
  color: rgb(var(--v-theme-soft));
  background: rgb(var(--v-theme-surface));
}

th,
td {
  padding: 4px 12px 4px 0;
  vertical-align: top;
}

tbody tr {
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

tbody th {
  width: 230px;
  font-weight: 500;
}

.part {
  padding-top: 12px;
}

.made {
  font-style: italic;
}

.kind {
  padding-left: 8px;
  font: 400 12px/15px var(--sans);
}

td:nth-child(3) {
  width: 220px;
}

.fault {
  display: block;
  color: rgb(var(--v-theme-error));
}

.acts {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
  padding-right: 4px;
}
</style>
