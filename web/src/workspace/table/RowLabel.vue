<script setup lang="ts">
import { mdiMenuDown, mdiMenuRight } from '@mdi/js'
import { computed } from 'vue'
import type { RowHeader, ShownMeasure } from '@/api/types'
import DragThing from '../DragThing.vue'
import { useWorkspace } from '../store'
import { dimensionThing, measureThing, memberThing } from '../things'
import MeasureName from './MeasureName.vue'
import { WHY_IN_PART, labelOf, pathOf } from './labels'
import { INDENT } from './layout'
import { useMemberToggle } from './useMemberToggle'

const props = defineProps<{ row: RowHeader; measure?: ShownMeasure; picked?: boolean; flat?: boolean }>()
const workspace = useWorkspace()
const emit = defineEmits<{ pick: [event: MouseEvent] }>()
const { toggle, toggleWords } = useMemberToggle(() => props.row.member, 'rows')
const icon = computed(() => (props.row.member?.is_open ? mdiMenuDown : mdiMenuRight))
const dress = computed(() => workspace.document?.dress)
const isFull = computed(() => !props.flat && dress.value?.rows === 'full_paths' && props.row.members.length > 0)
const indent = computed(() => `${isFull.value || props.flat ? 0 : props.row.indent * INDENT}px`)
const caption = computed(() => {
  const own = props.row.member ? labelOf(props.row.member, dress.value) : props.row.caption
  if (!isFull.value) return props.row.member && props.row.caption === props.row.member.caption ? own : props.row.caption
  return pathOf(props.row.members, dress.value)
})
const title = computed(() =>
  [
    [...(props.row.members[0]?.within ?? []), ...props.row.above, props.row.caption].join(' › '),
    props.row.member?.says,
    props.row.member?.is_part_filled && WHY_IN_PART,
  ]
    .filter(Boolean)
    .join('\n'),
)
</script>

<template>
  <span
    class="label"
    :class="{ picked, nowhere: row.member?.is_nowhere || row.member?.is_others, joint: !!row.member?.says }"
    :style="{ paddingLeft: indent }"
    :title="title"
  >
    <button
      v-if="row.member?.can_open"
      class="plain-button turn"
      tabindex="-1"
      :aria-label="toggleWords"
      :aria-expanded="row.member.is_open"
      @click="toggle"
    >
      <v-icon :icon="icon" size="16" />
    </button>
    <span v-else-if="row.member || measure" class="turn" />
    <span v-if="row.member?.row?.kind === 'blank'" />
    <DragThing
      v-else-if="row.member"
      class="caption"
      in-grid
      :thing="memberThing(row.member, row.members, 'rows')"
      :drag="dimensionThing(row.member.dimension, row.member.hierarchy)"
      @pick="emit('pick', $event)"
      >{{ caption }}</DragThing
    >
    <DragThing
      v-else-if="measure && row.caption === measure.caption"
      class="caption measure"
      in-grid
      :thing="measureThing(measure.placed)"
      ><MeasureName :measure="measure"
    /></DragThing>
    <span v-else class="caption">{{ row.caption }}</span>
  </span>
</template>

<style scoped>
.label {
  display: flex;
  align-items: center;
  width: 100%;
  min-width: 0;
}

.turn {
  display: flex;
  flex: none;
  align-items: center;
  width: 15px;
  height: min(20px, var(--row-height));
}

.picked {
  color: rgb(var(--v-theme-secondary));
  background: rgb(var(--v-theme-secondary-tint));
}

.measure {
  font-weight: 400;
}

.caption {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.joint .caption {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}

.nowhere {
  font-style: italic;
}

/* A slanted last letter leans out of its box, which cuts what overflows. */
.nowhere .caption {
  padding-right: 3px;
}
</style>
