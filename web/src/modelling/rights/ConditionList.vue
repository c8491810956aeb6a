<script setup lang="ts">
// Conditions of which all must hold: members that are kept or left out are chosen here, others are written in the text.
import { computed, ref } from 'vue'
import type { Condition } from '@/api/types'
import MemberTicks from './MemberTicks.vue'
import { useShaping } from '../shaping'

type MemberCondition = Extract<Condition, { kind: 'members' }>
const props = defineProps<{
  conditions: readonly Condition[]
  /** What they keep in words, as far as that is known. */
  told?: readonly string[]
  empty: string
  isOne?: boolean
}>()
const emit = defineEmits<{ change: [conditions: Condition[]] }>()
const shaping = useShaping()
/** The condition that is being changed, by its place; one behind the last is new. */
const opened = ref<number | null>(null)
const drafted = ref<MemberCondition | null>(null)
const dimensions = computed(() =>
  (shaping.model?.dimensions ?? []).filter((each) =>
    each.hierarchies.some((way) => way.levels.length || way.parent_child),
  ),
)

function captionOf(name: string): string {
  return shaping.model?.dimensions.find((each) => each.name === name)?.caption ?? name
}

/** A condition in words, with members by their keys. */
function words(condition: Condition): string {
  if (condition.kind === 'members' && condition.members.length) {
    const some = condition.members
      .slice(0, 5)
      .map((path) => path.at(-1) ?? 'blank')
      .join(', ')
    const more = condition.members.length > 5 ? ` and ${condition.members.length - 5} more` : ''
    return `${condition.action === 'leave_out' ? 'without ' : ''}${captionOf(condition.dimension)} ${some}${more}`
  }
  if (condition.kind === 'attribute')
    return `${captionOf(condition.dimension)}: ${condition.attribute} ${condition.operator.replace(/_/g, ' ')} ${condition.values.map((each) => (typeof each === 'object' && each ? 'what is asked' : String(each))).join(' and ')}`
  const about = 'dimension' in condition ? captionOf(condition.dimension) : ''
  return `${about ? `${about}: ` : ''}a condition that is written in the text`
}

function open(at: number): void {
  const known = props.conditions[at]
  const first = dimensions.value[0]
  if (known && known.kind !== 'members') return
  if (!known && !first) return
  drafted.value = known
    ? { ...known }
    : { kind: 'members', dimension: first!.name, hierarchy: wayOf(first!.name), action: 'keep', members: [] }
  opened.value = at
}

function wayOf(dimension: string): string {
  return (
    shaping.model?.dimensions
      .find((each) => each.name === dimension)
      ?.hierarchies.find((each) => each.levels.length || each.parent_child)?.name ?? ''
  )
}

function of(dimension: string): void {
  drafted.value = {
    kind: 'members',
    dimension,
    hierarchy: wayOf(dimension),
    action: drafted.value?.action ?? 'keep',
    members: [],
  }
}

function done(): void {
  const at = opened.value
  const own = drafted.value
  opened.value = null
  if (at === null || !own?.members.length) return
  const now = [...props.conditions]
  now[at] = own
  emit('change', now)
}

function take(at: number): void {
  emit(
    'change',
    props.conditions.filter((_, place) => place !== at),
  )
}
</script>

<template>
  <div class="conditions">
    <p v-if="!conditions.length && opened === null" class="soft">{{ empty }}</p>
    <template v-for="(each, at) in conditions" :key="at">
      <div v-if="opened !== at" class="row">
        <span>{{ told?.[at] ?? words(each) }}</span>
        <button v-if="each.kind === 'members'" type="button" class="plain-button go" @click="open(at)">change</button>
        <button
          v-if="!isOne || conditions.length > 1"
          type="button"
          class="plain-button not"
          :aria-label="`take out: ${told?.[at] ?? words(each)}`"
          @click="take(at)"
        >
          take out
        </button>
      </div>
    </template>
    <div v-if="opened !== null && drafted" class="drafted">
      <div class="row">
        <select v-model="drafted.action" class="field short" aria-label="Kept or left out">
          <option value="keep">only</option>
          <option value="leave_out">without</option>
        </select>
        <select
          class="field"
          :value="drafted.dimension"
          aria-label="Members of"
          @change="of(($event.target as HTMLSelectElement).value)"
        >
          <option v-for="each in dimensions" :key="each.name" :value="each.name">{{ each.caption }}</option>
        </select>
      </div>
      <MemberTicks
        :key="`${drafted.dimension}/${drafted.hierarchy}`"
        v-model="drafted.members"
        :dimension="drafted.dimension"
        :hierarchy="drafted.hierarchy"
      />
      <div class="row end">
        <button type="button" class="plain-button not" @click="opened = null">leave it</button>
        <v-btn variant="flat" color="primary" height="26" :disabled="!drafted.members.length" @click="done"
          >So it is</v-btn
        >
      </div>
    </div>
    <button
      v-else-if="!isOne || !conditions.length"
      type="button"
      class="plain-button go add"
      @click="open(conditions.length)"
    >
      {{ conditions.length ? 'And only…' : 'Only some…' }}
    </button>
  </div>
</template>

<style scoped src="../fields.css" />
<style scoped>
.conditions {
  display: flex;
  flex-direction: column;
  gap: 6px;
}

p {
  margin: 0;
}

.row {
  display: flex;
  gap: 12px;
  align-items: baseline;
}

.end {
  justify-content: flex-end;
}

.drafted {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 8px;
  background: rgb(var(--v-theme-background));
  border: 1px solid rgb(var(--v-theme-rule));
}

.add {
  align-self: start;
}
</style>
