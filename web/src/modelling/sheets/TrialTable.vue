<script setup lang="ts">
// Members as they will open, with a measure beside them: asked of the draft, before it is published.
import { computed, ref, shallowRef, watch } from 'vue'
import { ApiError, POST, body } from '@/api/client'
import type { Trial } from '@/api/types'
import { useMemberTree, type AskedMembers, type Branch } from '@/workspace/members/useMemberTree'
import { numberWriter } from '@/workspace/table/format'
import { useShaping } from '../shaping'

const props = defineProps<{ dimension: string; hierarchy?: string; measure: string | null; role?: string | null }>()
const shaping = useShaping()
/** What was said with the first members: how numbers are written, and what all comes to. */
const trial = shallowRef<Trial | null>(null)
const trouble = ref('')

const own = computed(() => shaping.model?.dimensions.find((each) => each.name === props.dimension))
const hierarchy = computed(() => props.hierarchy ?? own.value?.hierarchies[0]?.name ?? '')
const levels = computed(() => {
  const way = own.value?.hierarchies.find((each) => each.name === hierarchy.value)
  return (
    (way?.levels ?? [])
      .map((level) => own.value?.attributes.find((each) => each.name === level)?.caption ?? level)
      .join(' › ') ||
    way?.caption ||
    own.value?.caption ||
    ''
  )
})
const caption = computed(() => shaping.model?.measures.find((each) => each.name === props.measure)?.caption ?? '')
const write = computed(() => (trial.value?.format ? numberWriter(trial.value.format) : String))
let asked = 0
const tree = useMemberTree(ask)

/** Members of the draft. Why it cannot be asked stands in their place; a member that is not there any more has none. */
async function ask({ path, start }: AskedMembers): Promise<Branch> {
  const isFirst = !path.length && !start
  const mine = isFirst ? (asked += 1) : asked
  try {
    const sent = {
      dimension: props.dimension,
      hierarchy: hierarchy.value,
      path,
      start,
      search: '',
      measure: props.measure,
      role: props.role ?? null,
    }
    const found = await body(POST('/api/modelling/{model}/trial', { params: { path: shaping.path }, body: sent }))
    if (isFirst && mine === asked) {
      trial.value = found
      trouble.value = ''
    }
    // Those without a value stand where they belong here.
    return { ...found, without_records: 0 }
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    const faults = (error.details.faults as { message: string; hint: string }[] | undefined) ?? []
    if (isFirst && mine === asked)
      trouble.value = faults.length
        ? faults
            .slice(0, 3)
            .map((each) => `${each.message} ${each.hint}`)
            .join(' ')
        : `${error.message} ${error.hint}`
    return { members: [], count: 0, without_records: 0 }
  }
}

watch(() => [props.measure, props.role, shaping.turn], tree.begin)
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
        <template v-for="line in tree.lines.value" :key="line.key">
          <tr v-if="line.member" :class="{ top: line.depth === 0, nowhere: line.member.is_nowhere }">
            <th scope="row" :style="{ paddingLeft: `${6 + 14 * line.depth}px` }">
              <button
                v-if="line.member.can_open"
                type="button"
                class="plain-button turn"
                :aria-expanded="line.isOpen"
                :aria-label="`Open ${line.member.caption}`"
                @click="tree.turn(line.member)"
              >
                {{ line.isOpen ? '▾' : '▸' }}</button><span v-else class="turn" />{{ line.member.caption }}
            </th>
            <td class="number">{{ line.member.value === null ? '' : write(line.member.value ?? null) }}</td>
          </tr>
          <tr v-else-if="line.more">
            <td colspan="2" :style="{ paddingLeft: `${22 + 14 * line.depth}px` }">
              <button type="button" class="plain-button soft more" @click="tree.fetch(line.more.path, line.more.start)">
                and {{ line.more.left.toLocaleString('en-GB') }} more…
              </button>
            </td>
          </tr>
        </template>
        <tr v-if="measure" class="total">
          <th scope="row">All</th>
          <td class="number">{{ trial.total === null ? '' : write(trial.total ?? null) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="!trial.is_reached" class="soft note">{{ caption }} cannot be seen by it: nothing ties the two.</p>
    <p v-if="!trial.count" class="soft note">It has no members.</p>
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
