<script setup lang="ts">
// Members as they will open, with a measure beside them: asked of the draft, before it is published.
import { computed, ref, shallowRef, watch } from 'vue'
import { ApiError, POST, body } from '@/api/client'
import type { Trial } from '@/api/types'
import { numberWriter } from '@/workspace/table/format'
import { useShaping } from '../shaping'

type Member = Trial['members'][number]
interface Line {
  member: Member
  depth: number
  id: string
}

const props = defineProps<{ dimension: string; hierarchy?: string; measure: string | null; role?: string | null }>()
const shaping = useShaping()
const trial = shallowRef<Trial | null>(null)
const below = shallowRef<ReadonlyMap<string, Trial>>(new Map())
const trouble = ref('')
let asked = 0

const own = computed(() => shaping.model?.dimensions.find((each) => each.name === props.dimension))
const hierarchy = computed(() => props.hierarchy ?? own.value?.hierarchies[0]?.name ?? '')
const levels = computed(() => {
  const way = own.value?.hierarchies.find((each) => each.name === hierarchy.value)
  return (way?.levels ?? []).map((level) => own.value?.attributes.find((each) => each.name === level)?.caption ?? level).join(' › ') || way?.caption || own.value?.caption || ''
})
const caption = computed(() => shaping.model?.measures.find((each) => each.name === props.measure)?.caption ?? '')
const write = computed(() => (trial.value?.format ? numberWriter(trial.value.format) : String))
const lines = computed(() => {
  const found: Line[] = []
  const add = (trial: Trial, depth: number) => {
    for (const member of trial.members) {
      const id = JSON.stringify(member.path)
      found.push({ member, depth, id })
      const inner = below.value.get(id)
      if (inner) add(inner, depth + 1)
    }
  }
  if (trial.value) add(trial.value, 0)
  return found
})
const more = computed(() => (trial.value ? trial.value.count - trial.value.members.length : 0))

async function ask(path: Member['path']): Promise<Trial | null> {
  const mine = asked
  try {
    const sent = { dimension: props.dimension, hierarchy: hierarchy.value, path, start: 0, measure: props.measure, role: props.role ?? null }
    const found = await body(POST('/api/modelling/{model}/trial', { params: { path: shaping.path }, body: sent }))
    return mine === asked ? found : null
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    const faults = (error.details.faults as { message: string; hint: string }[] | undefined) ?? []
    if (mine === asked) trouble.value = faults.length ? faults.slice(0, 3).map((each) => `${each.message} ${each.hint}`).join(' ') : `${error.message} ${error.hint}`
    return null
  }
}

async function askAnew(): Promise<void> {
  asked += 1
  trouble.value = ''
  if (!hierarchy.value) return
  const found = await ask([])
  if (!found && !trouble.value) return
  below.value = new Map()
  trial.value = found
}

async function turn(line: Line): Promise<void> {
  if (!line.member.can_open) return
  const now = new Map(below.value)
  if (now.delete(line.id)) below.value = now
  else {
    const found = await ask(line.member.path)
    if (found) below.value = new Map(below.value).set(line.id, found)
  }
}

watch(() => [props.dimension, hierarchy.value, props.measure, props.role, shaping.turn], askAnew, { immediate: true })
</script>

<template>
  <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
  <div v-else-if="trial" class="trial">
    <table>
      <thead>
        <tr>
          <th scope="col">{{ levels }}</th>
          <th scope="col" class="number">{{ caption }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="line in lines" :key="line.id" :class="{ top: line.depth === 0, nowhere: line.member.is_nowhere }">
          <th scope="row" :style="{ paddingLeft: `${6 + 14 * line.depth}px` }">
            <button v-if="line.member.can_open" type="button" class="plain-button turn" :aria-expanded="below.has(line.id)" :aria-label="`Open ${line.member.caption}`" @click="turn(line)">{{ below.has(line.id) ? '▾' : '▸' }}</button><span v-else class="turn" />{{ line.member.caption }}
          </th>
          <td class="number">{{ line.member.value === null ? '' : write(line.member.value ?? null) }}</td>
        </tr>
        <tr v-if="more > 0"><th scope="row" class="soft more">and {{ more.toLocaleString('en-GB') }} more</th><td /></tr>
        <tr v-if="measure" class="total"><th scope="row">All</th><td class="number">{{ trial.total === null ? '' : write(trial.total ?? null) }}</td></tr>
      </tbody>
    </table>
    <p v-if="!trial.is_reached" class="soft note">{{ caption }} cannot be seen by it: nothing ties the two.</p>
    <p v-if="!trial.members.length" class="soft note">It has no members.</p>
  </div>
  <p v-else class="soft" role="status">It is being asked.</p>
</template>

<style scoped>
.trial {
  max-height: 44vh;
  overflow: auto;
  background: rgb(var(--v-theme-surface));
}

table {
  width: 100%;
  border-collapse: collapse;
}

thead th {
  position: sticky;
  top: 0;
  padding: 2px 6px;
  font-weight: 600;
  color: rgb(var(--v-theme-soft));
  text-align: left;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgb(var(--v-theme-on-background));
}

tbody th {
  font-weight: 400;
  text-align: left;
}

td,
tbody th {
  height: 21px;
  padding: 0 6px;
}

.top {
  border-top: 1px solid rgb(var(--v-theme-hair));
}

.top th,
.top td {
  font-weight: 600;
}

.nowhere th,
.nowhere td,
.more {
  font-style: italic;
  font-weight: 400;
}

.number {
  text-align: right;
}

thead .number {
  text-align: right;
}

.total {
  border-top: 1px solid rgb(var(--v-theme-on-background));
}

.total th,
.total td {
  font-weight: 650;
}

.turn {
  display: inline-block;
  width: 16px;
}

.note,
.trouble {
  margin: 0;
  padding: 6px;
}

.trouble {
  overflow-wrap: anywhere;
  background: rgb(var(--v-theme-saffron-tint));
}
</style>
