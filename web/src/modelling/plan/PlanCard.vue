<script setup lang="ts">
// A table on the plan: its columns, each of which can be dragged onto a column of another table to tie the two.
import { draggable, dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import type { PlanTable } from '../plan'
import { useShaping } from '../shaping'
import { counted, kindWords, tableCaption } from '../words'

interface DraggedColumn extends Record<string, unknown> {
  table: string
  column: string
}

const props = defineProps<{ table: PlanTable; scale: number; isPale: boolean }>()
const emit = defineEmits<{ move: [x: number, y: number]; drop: [] }>()
const shaping = useShaping()
const rows = ref<HTMLElement[]>([])
const over = ref('')
const name = computed(() => props.table.name)
const declared = computed(() => shaping.model?.tables[name.value])
const look = computed(() => shaping.tableLook(name.value))
const isChosen = computed(() => shaping.chosen?.kind === 'table' && shaping.chosen.table === name.value)
const count = computed(() => {
  if (declared.value?.calendar) return 'made here'
  if (!look.value) return ''
  return look.value.trouble ? 'cannot be read' : counted(look.value.records)
})

function isLookedAt(column: string): boolean {
  const own = shaping.chosen
  if (own?.kind === 'column') return own.table === name.value && own.column === column
  if (own?.kind !== 'tie') return false
  const tie = shaping.model?.relationships?.find((each) => each.from_table === own.table && each.role === own.role)
  return (
    !!tie &&
    ((tie.from_table === name.value && tie.from_column === column) ||
      (tie.to_table === name.value && tie.to_column === column))
  )
}

/** What stands at the right of a column. */
function told(column: string): { words: string; isOdd: boolean } {
  const tie = shaping.tieOf(name.value, column)
  const own = shaping.columnLook(name.value, column)
  if (own?.trouble) return { words: 'does not fit', isOdd: true }
  if (tie) {
    const seen = shaping.tieLook(tie)
    const unknown = seen?.unknown ? ` · ${counted(seen.unknown)} unknown` : ''
    return { words: `→ ${tableCaption(tie.to_table)}${unknown}`, isOdd: !!unknown }
  }
  const isKey = shaping.model?.relationships?.some((each) => each.to_table === name.value && each.to_column === column)
  if (isKey) {
    const once = own?.profile && own.profile.distinct === own.profile.records - own.profile.blanks
    return {
      words: once === false ? 'key, not once each' : declared.value?.calendar ? 'each day once' : 'key, once each',
      isOdd: once === false,
    }
  }
  return { words: kindWords(own, declared.value), isOdd: false }
}

function grab(event: PointerEvent): void {
  if (event.button !== 0) return
  const head = event.currentTarget as HTMLElement
  const from = { x: event.clientX, y: event.clientY, left: props.table.x, top: props.table.y }
  let isMoved = false
  head.setPointerCapture(event.pointerId)
  const onMove = (now: PointerEvent) => {
    const x = (now.clientX - from.x) / props.scale
    const y = (now.clientY - from.y) / props.scale
    if (!isMoved && Math.hypot(x, y) < 4) return
    isMoved = true
    emit('move', from.left + x, from.top + y)
  }
  const onUp = () => {
    head.removeEventListener('pointermove', onMove)
    head.removeEventListener('pointerup', onUp)
    head.removeEventListener('pointercancel', onUp)
    if (isMoved) emit('drop')
    else shaping.choose({ kind: 'table', table: name.value })
  }
  head.addEventListener('pointermove', onMove)
  head.addEventListener('pointerup', onUp)
  head.addEventListener('pointercancel', onUp)
}

async function tie(from: DraggedColumn, column: string): Promise<void> {
  const isDone = declared.value?.calendar
    ? await shaping.act({ kind: 'make_calendar', table: from.table, column: from.column })
    : await shaping.act({
        kind: 'tie',
        from_table: from.table,
        from_column: from.column,
        to_table: name.value,
        to_column: column,
        role: '',
      })
  const made = isDone ? shaping.tieOf(from.table, from.column) : undefined
  if (made) shaping.choose({ kind: 'tie', table: made.from_table, role: made.role })
}

let letGo: (() => void)[] = []
function listen(): void {
  for (const each of letGo) each()
  letGo = rows.value.flatMap((element) => {
    const column = element.dataset.column!
    return [
      draggable({ element, getInitialData: () => ({ table: name.value, column }) }),
      dropTargetForElements({
        element,
        canDrop: ({ source }) => typeof source.data.column === 'string' && source.data.table !== name.value,
        onDragEnter: () => (over.value = column),
        onDragLeave: () => (over.value = ''),
        onDrop: ({ source }) => {
          over.value = ''
          void tie(source.data as DraggedColumn, column)
        },
      }),
    ]
  })
}
watch(() => [props.table.columns, rows.value.length], listen, { immediate: true, flush: 'post' })
onBeforeUnmount(() => letGo.forEach((each) => each()))
</script>

<template>
  <section
    class="card"
    :class="{ fact: table.isFact, pale: isPale, chosen: isChosen }"
    :data-table="table.name"
    :aria-label="`Table ${tableCaption(table.name)}`"
    :style="{ left: `${table.x}px`, top: `${table.y}px`, width: `${table.width}px` }"
  >
    <button
      type="button"
      class="plain-button head"
      :title="`${tableCaption(table.name)}: drag it to where it should stand`"
      @pointerdown="grab"
      @keydown.enter="shaping.choose({ kind: 'table', table: table.name })"
    >
      <span class="caption">{{ tableCaption(table.name) }}</span><span class="soft count">{{ count }}</span>
    </button>
    <ul v-if="table.columns.length || table.more">
      <li
        v-for="column in table.columns"
        :key="column"
        ref="rows"
        :data-column="column"
        :class="{ looked: isLookedAt(column), over: over === column, key: shaping.tieOf(table.name, column) }"
      >
        <button
          type="button"
          class="plain-button column"
          :title="`${column}: drag it onto a column of another table to tie the two`"
          @click="shaping.choose({ kind: 'column', table: table.name, column })"
        >
          <span class="name">{{ column }}</span><span class="soft told" :class="{ odd: told(column).isOdd }">{{
            told(column).words
          }}</span>
        </button>
      </li>
      <li v-if="table.more">
        <button
          type="button"
          class="plain-button column soft more"
          @click="shaping.choose({ kind: 'table', table: table.name })"
        >
          and {{ table.more }} more
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.card {
  position: absolute;
  background: rgb(var(--v-theme-surface));
}

.head {
  display: flex;
  gap: 8px;
  align-items: baseline;
  justify-content: space-between;
  width: 100%;
  height: 29px;
  padding: 3px 2px 0;
  cursor: grab;
  border-bottom: 1px solid rgb(var(--v-theme-on-background));
  touch-action: none;
}

.head:active {
  cursor: grabbing;
}

.fact .head {
  border-top: 1px solid rgb(var(--v-theme-on-background));
  border-bottom: 3px double rgb(var(--v-theme-on-background));
}

.chosen .head {
  background: rgb(var(--v-theme-tint));
}

.caption {
  overflow: hidden;
  font: 600 16px/22px var(--serif);
  text-overflow: ellipsis;
  white-space: nowrap;
}

.count {
  font-size: 11px;
  white-space: nowrap;
}

ul {
  margin: 0;
  padding: 1px 0 0;
  list-style: none;
}

.fact ul {
  padding-top: 9px;
}

.column {
  display: flex;
  gap: 8px;
  align-items: baseline;
  justify-content: space-between;
  width: 100%;
  height: 19px;
  padding: 0 2px;
  overflow: hidden;
  line-height: 18px;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.name {
  flex: 0 1 auto;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.key .name {
  font-weight: 600;
}

.told {
  flex: none;
  max-width: 68%;
  overflow: hidden;
  font-size: 11px;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.odd {
  color: rgb(var(--v-theme-secondary));
}

.more {
  font-style: italic;
  border-bottom: 0;
}

.column:hover {
  background: rgb(var(--v-theme-hair));
}

.looked .column {
  background: rgb(var(--v-theme-tint));
}

.over .column {
  background: rgb(var(--v-theme-saffron-tint));
  box-shadow: inset 0 0 0 1px rgb(var(--v-theme-saffron));
}

.pale {
  opacity: 0.25;
}
</style>
