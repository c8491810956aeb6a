<script setup lang="ts">
// The plan: facts ruled like accounts in the middle, what describes them around, and a line for each tie.
import { mdiArrowExpandAll, mdiMinus, mdiPlus } from '@mdi/js'
import { useElementSize, useStorage } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { PUT, body } from '@/api/client'
import { useProblem } from '@/shell/problem'
import PlanCard from './PlanCard.vue'
import { lineOf, planOf, type Depth, type Place } from '../plan'
import { useShaping } from '../shaping'
import { tableCaption } from '../words'

const DEPTHS: { value: Depth; title: string }[] = [
  { value: 'columns', title: 'columns' },
  { value: 'ties', title: 'what ties them' },
  { value: 'names', title: 'names' },
]
/** From so many tables on, columns that tie nothing are folded at first. */
const MANY = 14
const LEAST_SCALE = 0.35
const READABLE = 0.85
const shaping = useShaping()
const problem = useProblem()
const board = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(board)
const chosenDepth = useStorage<Record<string, Depth>>('dastan-plan-depth', {})
const words = ref('')
const touching = ref('')
const scale = ref(1)
/** Whether the plan is as large as the room: it stays so as the room changes, until somebody zooms. */
const isFitted = ref(true)
/** Where tables were moved to, before the server has them. */
const moved = ref<Place[]>([])

const model = computed(() => shaping.model!)
const names = computed(() => Object.keys(model.value.tables))
const depth = computed<Depth>({
  get: () => chosenDepth.value[model.value.name] ?? (names.value.length > MANY ? 'ties' : 'columns'),
  set: (value) => (chosenDepth.value = { ...chosenDepth.value, [model.value.name]: value }),
})
const places = computed(() => {
  const found = new Map((shaping.shaped?.places ?? []).map((each) => [each.table, each]))
  for (const each of moved.value) found.set(each.table, each)
  return [...found.values()]
})
/** The tables that touch the one that is looked at alone. */
const only = computed(() => {
  if (!touching.value || !names.value.includes(touching.value)) return null
  const ties = model.value.relationships ?? []
  const found = new Set([touching.value])
  for (const each of ties) {
    if (each.from_table === touching.value) found.add(each.to_table)
    if (each.to_table === touching.value) found.add(each.from_table)
  }
  // What describes what describes it.
  for (const each of ties)
    if (
      found.has(each.from_table) &&
      each.from_table !== touching.value &&
      !model.value.measures.some((one) => one.table === each.from_table)
    )
      found.add(each.to_table)
  return found
})
const plan = computed(() => planOf(model.value, shaping.bench, depth.value, places.value, only.value))
const dragged = ref<Place | null>(null)
const tables = computed(() =>
  plan.value.tables.map((each) =>
    dragged.value?.table === each.name ? { ...each, x: dragged.value.x, y: dragged.value.y } : each,
  ),
)
const lines = computed(() => {
  if (!dragged.value) return plan.value.lines
  const byName = new Map(tables.value.map((each) => [each.name, each]))
  return plan.value.lines.map((each) => lineOf(each.tie, byName))
})
const found = computed(() => {
  const wanted = words.value.trim().toLowerCase()
  if (!wanted) return null
  const fits = (text: string) => text.toLowerCase().includes(wanted)
  return new Set(
    names.value.filter(
      (name) =>
        fits(name) || fits(tableCaption(name)) || shaping.tableLook(name)?.columns.some((each) => fits(each.name)),
    ),
  )
})
const lookedAt = computed(() => {
  const own = shaping.chosen
  return own && 'table' in own ? own.table : ''
})
const hasPlaces = computed(() => places.value.length > 0)

function isChosen(tie: { from_table: string; role: string }): boolean {
  const own = shaping.chosen
  return own?.kind === 'tie' && own.table === tie.from_table && own.role === tie.role
}

function isWrong(tie: { from_table: string; role: string }): boolean {
  const look = shaping.tieLook(tie)
  return !!look && (look.repeated.length > 0 || look.trouble !== '')
}

/** Whether a role must be told: the table is tied to another one in several, or it is looked at. */
function tellsRole(tie: { from_table: string; to_table: string; role: string }): boolean {
  return (
    isChosen(tie) ||
    (model.value.relationships ?? []).filter(
      (each) => each.from_table === tie.from_table && each.to_table === tie.to_table,
    ).length > 1
  )
}

function fit(): void {
  if (!width.value || !plan.value.width) return
  // A tall plan is scrolled rather than made so small that nobody can read it.
  const whole = Math.max(height.value / plan.value.height, READABLE)
  scale.value = Math.max(Math.min(width.value / plan.value.width, whole, 1), LEAST_SCALE)
}

function zoom(by: number): void {
  isFitted.value = false
  scale.value = Math.max(Math.min(scale.value * by, 1.6), LEAST_SCALE)
}

watch([width, height, () => plan.value.width, () => plan.value.height, isFitted], () => isFitted.value && fit(), {
  immediate: true,
})
watch(found, async (now) => {
  if (!now?.size) return
  await nextTick()
  board.value
    ?.querySelector(`[data-table="${CSS.escape([...now][0]!)}"]`)
    ?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
})

function move(table: string, x: number, y: number): void {
  dragged.value = { table, x: Math.max(0, Math.round(x)), y: Math.max(0, Math.round(y)) }
}

async function drop(): Promise<void> {
  if (!dragged.value) return
  const own = dragged.value
  moved.value = [...moved.value.filter((each) => each.table !== own.table), own]
  dragged.value = null
  await keep(places.value)
}

async function keep(places: Place[]): Promise<void> {
  try {
    await body(PUT('/api/modelling/{model}/places', { params: { path: shaping.path }, body: { places } }))
  } catch (error) {
    problem.tell(error)
  }
}

/** Draws the plan by itself again. */
async function tidy(): Promise<void> {
  moved.value = []
  if (shaping.shaped) shaping.put({ ...shaping.shaped, places: [] })
  await keep([])
}
</script>

<template>
  <div class="plan-room">
    <div class="tools">
      <input
        v-model="words"
        class="search-field"
        type="search"
        placeholder="Find a table or column"
        aria-label="Find a table or column"
      />
      <span v-if="found && !found.size" class="soft">none is called so</span>
      <select v-model="depth" class="field" aria-label="How much of each table is drawn">
        <option v-for="each in DEPTHS" :key="each.value" :value="each.value">{{ each.title }}</option>
      </select>
      <button v-if="touching" type="button" class="plain-button go" @click="touching = ''">
        Show all {{ names.length }} tables
      </button>
      <button
        v-else-if="lookedAt && names.length > 3"
        type="button"
        class="plain-button go"
        @click="touching = lookedAt"
      >
        Only what touches {{ tableCaption(lookedAt) }}
      </button>
      <span class="space" />
      <button
        v-if="hasPlaces"
        type="button"
        class="plain-button go"
        title="Forget where tables were moved to"
        @click="tidy"
      >
        Draw it anew
      </button>
      <v-btn :icon="mdiMinus" size="24" aria-label="Smaller" title="Smaller" @click="zoom(1 / 1.2)" />
      <v-btn :icon="mdiPlus" size="24" aria-label="Larger" title="Larger" @click="zoom(1.2)" />
      <v-btn
        :icon="mdiArrowExpandAll"
        size="24"
        aria-label="All of it"
        title="All of it"
        :disabled="isFitted"
        @click="isFitted = true"
      />
    </div>
    <div
      ref="board"
      class="board"
      tabindex="0"
      role="group"
      aria-label="Plan of the model"
      @click.self="shaping.choose(null)"
    >
      <div
        class="paper"
        :style="{ width: `${plan.width * scale}px`, height: `${plan.height * scale}px` }"
        @click.self="shaping.choose(null)"
      >
        <div
          class="drawn"
          :style="{ transform: `scale(${scale})`, width: `${plan.width}px`, height: `${plan.height}px` }"
          @click.self="shaping.choose(null)"
        >
          <svg :width="plan.width" :height="plan.height" aria-hidden="true" @click.self="shaping.choose(null)">
            <g
              v-for="line in lines"
              :key="`${line.tie.from_table}/${line.tie.role}`"
              class="tie"
              :class="{
                chosen: isChosen(line.tie),
                wrong: isWrong(line.tie),
                pale: found && !(found.has(line.tie.from_table) && found.has(line.tie.to_table)),
              }"
              @click="shaping.choose({ kind: 'tie', table: line.tie.from_table, role: line.tie.role })"
            >
              <path class="reach" :d="line.path" />
              <path class="line" :d="line.path" />
              <text
                v-if="tellsRole(line.tie)"
                :x="line.at.x"
                :y="line.at.y"
                :text-anchor="line.at.isLeft ? 'end' : 'start'"
              >
                {{ line.tie.role.replace(/_/g, ' ') }}
              </text>
            </g>
          </svg>
          <PlanCard
            v-for="table in tables"
            :key="table.name"
            :table="table"
            :scale="scale"
            :is-pale="!!found && !found.has(table.name)"
            @move="(x, y) => move(table.name, x, y)"
            @drop="drop"
          />
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.plan-room {
  display: flex;
  flex-direction: column;
}

.tools {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 34px;
  padding: 0 14px 4px 18px;
}

.search-field {
  width: 190px;
}

.field {
  height: 28px;
  padding: 0 4px;
  font: inherit;
  color: inherit;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-rule));
  border-radius: 3px;
}

.field option {
  color: rgb(var(--v-theme-on-background));
  background: rgb(var(--v-theme-surface));
}

.go {
  overflow: hidden;
  color: rgb(var(--v-theme-secondary));
  text-overflow: ellipsis;
  white-space: nowrap;
  border-bottom: 1px solid currentcolor;
}

.space {
  flex: 1;
}

.board {
  flex: 1;
  overflow: auto;
}

.paper {
  position: relative;
  margin: 0 auto;
}

.drawn {
  position: absolute;
  top: 0;
  left: 0;
  transform-origin: 0 0;
}

svg {
  position: absolute;
  inset: 0;
  overflow: visible;
}

.tie {
  cursor: pointer;
}

path {
  fill: none;
}

.reach {
  stroke: transparent;
  stroke-width: 12;
}

.line {
  stroke: rgb(var(--v-theme-on-background));
  stroke-width: 1;
}

.tie:hover .line {
  stroke-width: 2;
}

.wrong .line {
  stroke: rgb(var(--v-theme-saffron));
  stroke-width: 2;
}

.chosen .line {
  stroke: rgb(var(--v-theme-secondary));
  stroke-width: 2;
}

.pale {
  opacity: 0.25;
}

text {
  font-size: 11px;
  fill: rgb(var(--v-theme-soft));
}

.chosen text {
  fill: rgb(var(--v-theme-secondary));
}
</style>
