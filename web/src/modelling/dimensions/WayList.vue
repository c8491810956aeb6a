<script setup lang="ts">
// The ways down through a dimension: levels, coarsest first, dragged into their order or moved by the arrow keys.
import { draggable, dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import type { ModelDimension, ModelHierarchy } from '@/api/types'
import { useShaping } from '../shaping'
import { nameOf } from '../words'

const props = defineProps<{ dimension: ModelDimension; shown: string }>()
const emit = defineEmits<{ show: [way: string] }>()
const shaping = useShaping()
const chips = ref<HTMLElement[]>([])
const over = ref('')

function captionOf(level: string): string {
  return props.dimension.attributes.find((each) => each.name === level)?.caption ?? level
}

function calledOf(way: ModelHierarchy): string {
  return (
    way.caption ??
    (way === props.dimension.hierarchies[0] ? props.dimension.caption : captionOf(way.levels?.[0] ?? way.name))
  )
}

function put(way: ModelHierarchy, said: Partial<ModelHierarchy>, isFirst = false): void {
  void shaping.act({
    kind: 'put_hierarchy',
    dimension: props.dimension.name,
    hierarchy: { ...way, ...said },
    is_first: isFirst,
  })
}

function missing(way: ModelHierarchy): string[] {
  return props.dimension.attributes.map((each) => each.name).filter((each) => !way.levels.includes(each))
}

/** Puts a level before another; at the end before none. */
function moveBefore(way: ModelHierarchy, level: string, before: string | null): void {
  if (level === before) return
  const rest = way.levels.filter((each) => each !== level)
  const at = before === null ? rest.length : rest.indexOf(before)
  put(way, { levels: [...rest.slice(0, at), level, ...rest.slice(at)] })
}

function step(way: ModelHierarchy, level: string, by: number): void {
  const at = way.levels.indexOf(level)
  const other = way.levels[at + by]
  if (other === undefined) return
  const levels = [...way.levels]
  levels[at] = other
  levels[at + by] = level
  put(way, { levels })
}

function take(way: ModelHierarchy, level: string): void {
  if (way.levels.length > 1) put(way, { levels: way.levels.filter((each) => each !== level) })
}

function add(): void {
  const levels = [props.dimension.attributes[0]!.name]
  const names = props.dimension.hierarchies.map((each) => each.name)
  const captions = props.dimension.hierarchies.map(calledOf)
  let caption = captionOf(levels[0]!)
  for (let number = 2; captions.includes(caption); number += 1) caption = `${captionOf(levels[0]!)} (${number})`
  const name = nameOf(caption, names, 'way')
  void shaping
    .act({
      kind: 'put_hierarchy',
      dimension: props.dimension.name,
      hierarchy: { name, caption, levels, sets: [], blanks: 'show' },
      is_first: false,
    })
    .then((isDone) => isDone && emit('show', name))
}

/** Columns that may name the key of the row above: of the key's kind, and not each another. */
const parents = computed(() => {
  const columns = shaping.tableLook(props.dimension.table)?.columns ?? []
  const key = columns.find((each) => each.name === props.dimension.key)?.profile
  const known = new Set(props.dimension.hierarchies.map((each) => each.parent_child?.parent))
  return columns
    .filter(
      (each) =>
        key &&
        each.profile?.kind === key.kind &&
        each.profile.distinct < key.distinct &&
        each.name !== props.dimension.key &&
        !known.has(each.name),
    )
    .map((each) => each.name)
})

function addTree(parent: string): void {
  const key = props.dimension.key!
  const caption = `${props.dimension.caption} tree`
  const name = nameOf(
    caption,
    props.dimension.hierarchies.map((each) => each.name),
    'tree',
  )
  const lowest = props.dimension.attributes.find((each) => each.key === key)
  const hierarchy = {
    name,
    caption,
    levels: [],
    parent_child: {
      key,
      parent,
      caption_column: lowest?.caption_column ?? null,
      sort_column: lowest?.sort_column ?? null,
    },
    sets: [],
    blanks: 'show' as const,
  }
  void shaping
    .act({ kind: 'put_hierarchy', dimension: props.dimension.name, hierarchy, is_first: false })
    .then((isDone) => isDone && emit('show', name))
}

let letGo: (() => void)[] = []
function listen(): void {
  for (const each of letGo) each()
  letGo = chips.value.flatMap((element) => {
    const { way, level } = element.dataset as { way: string; level: string }
    const own = () => props.dimension.hierarchies.find((each) => each.name === way)
    return [
      draggable({ element, getInitialData: () => ({ way, level, isLevel: true }) }),
      dropTargetForElements({
        element,
        canDrop: ({ source }) => source.data.isLevel === true && source.data.way === way,
        onDragEnter: () => (over.value = `${way}/${level}`),
        onDragLeave: () => (over.value = ''),
        onDrop: ({ source }) => {
          over.value = ''
          const found = own()
          if (found) moveBefore(found, source.data.level as string, level)
        },
      }),
    ]
  })
}
watch(() => props.dimension, listen, { immediate: true, flush: 'post' })
onBeforeUnmount(() => letGo.forEach((each) => each()))

function valueOf(event: Event): string {
  const field = event.target as HTMLSelectElement
  const value = field.value
  field.value = ''
  return value
}
</script>

<template>
  <div v-for="(way, at) in dimension.hierarchies" :key="way.name" class="way" :class="{ shown: way.name === shown }">
    <div class="head">
      <button
        type="button"
        class="plain-button called"
        :aria-pressed="way.name === shown"
        title="See how it would open"
        @click="emit('show', way.name)"
      >
        {{ calledOf(way) }}
      </button>
      <span v-if="at === 0" class="soft">what people get without choosing</span>
      <button v-else type="button" class="plain-button not" @click="put(way, {}, true)">make it the first</button>
      <button
        v-if="dimension.hierarchies.length > 1"
        type="button"
        class="plain-button not"
        @click="shaping.act({ kind: 'leave_out_hierarchy', dimension: dimension.name, name: way.name })"
      >
        leave it out
      </button>
    </div>
    <p v-if="way.parent_child" class="soft">
      A tree: each {{ way.parent_child.key }} lies below the one that its {{ way.parent_child.parent }} names.
    </p>
    <p v-else-if="way.sets?.length" class="soft">
      Sets: {{ way.sets.map((each) => each.caption).join(', ') }}. They are written in the text.
    </p>
    <p v-else-if="way.layout" class="soft">
      Laid out by hand: {{ way.layout.rows.length }} rows. They are written in the text.
    </p>
    <div v-else class="levels" role="group" :aria-label="`Levels of ${calledOf(way)}`">
      <template v-for="(level, place) in way.levels" :key="level">
        <span v-if="place" class="soft">›</span>
        <span
          ref="chips"
          class="chip"
          :class="{ over: over === `${way.name}/${level}` }"
          :data-way="way.name"
          :data-level="level"
        >
          <button
            type="button"
            class="plain-button"
            :title="`${captionOf(level)}: drag it, or move it with ← and →; Delete takes it out`"
            @keydown.left.prevent="step(way, level, -1)"
            @keydown.right.prevent="step(way, level, 1)"
            @keydown.delete.prevent="take(way, level)"
          >
            {{ captionOf(level) }}
          </button>
          <button
            v-if="way.levels.length > 1"
            type="button"
            class="plain-button away"
            :aria-label="`Take ${captionOf(level)} out`"
            @click="take(way, level)"
          >
            ×
          </button>
        </span>
      </template>
      <label
        v-if="way.levels.length > 1"
        class="soft blanks"
        title="Whether a blank between levels is a member of its own, or is passed over to what stands below it"
        ><input
          type="checkbox"
          :checked="way.blanks === 'pass'"
          @change="put(way, { blanks: ($event.target as HTMLInputElement).checked ? 'pass' : 'show' })"
        />
        blanks are passed over</label
      >
      <select
        v-if="missing(way).length"
        class="add"
        :aria-label="`Another level of ${calledOf(way)}`"
        value=""
        @change="moveBefore(way, valueOf($event), null)"
      >
        <option value="">then…</option>
        <option v-for="level in missing(way)" :key="level" :value="level">{{ captionOf(level) }}</option>
      </select>
    </div>
  </div>
  <div class="rest">
    <button type="button" class="plain-button more" @click="add">Another way down</button>
    <select
      v-if="dimension.key && parents.length"
      class="add"
      aria-label="A tree by the column that names the row above"
      value=""
      @change="addTree(valueOf($event))"
    >
      <option value="">a tree by…</option>
      <option v-for="column in parents" :key="column" :value="column">{{ column }}</option>
    </select>
  </div>
</template>

<style scoped src="../fields.css" />
<style scoped>
.way {
  padding: 3px 8px 6px;
  border-left: 2px solid transparent;
}

.shown {
  border-left-color: rgb(var(--v-theme-secondary));
}

.head {
  display: flex;
  gap: 12px;
  align-items: baseline;
}

.called {
  font-weight: 600;
}

.levels {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}

.chip {
  display: inline-flex;
  gap: 4px;
  padding: 0 4px 0 8px;
  cursor: grab;
  border: 1px solid rgb(var(--v-theme-rule));
  border-radius: 10px;
}

.chip .plain-button {
  cursor: inherit;
}

.chip .away {
  color: rgb(var(--v-theme-soft));
  cursor: pointer;
}

.over {
  background: rgb(var(--v-theme-saffron-tint));
  border-color: rgb(var(--v-theme-saffron));
}

.add {
  height: 22px;
  font: inherit;
  color: rgb(var(--v-theme-soft));
  background: none;
  border: 0;
}

p {
  margin: 0;
}

.rest {
  display: flex;
  gap: 18px;
  align-items: baseline;
}

.blanks {
  padding-left: 10px;
  font-size: 12px;
}

.more {
  margin-left: 10px;
  color: rgb(var(--v-theme-secondary));
  border-bottom: 1px solid currentcolor;
}
</style>
