<script setup lang="ts">
import { mdiMenuDown, mdiMenuRight } from '@mdi/js'
import { computed } from 'vue'
import DragThing from '../DragThing.vue'
import { useWorkspace } from '../store'
import { dimensionThing, memberThing } from '../things'
import type { HeaderCell } from './headers'
import { WHY_IN_PART, labelOf } from './labels'
import { useMemberToggle } from './useMemberToggle'

const props = defineProps<{ cell: HeaderCell; picked: boolean }>()
const workspace = useWorkspace()
const emit = defineEmits<{ pick: [event: MouseEvent] }>()
const { toggle, toggleWords } = useMemberToggle(() => props.cell.member, 'columns')
const icon = computed(() => (props.cell.member?.is_open ? mdiMenuDown : mdiMenuRight))
</script>

<template>
  <span
    class="head"
    :class="[
      cell.kind,
      { picked, nowhere: cell.member?.is_nowhere || cell.member?.is_others, joint: !!cell.member?.says },
    ]"
    :title="[cell.caption, cell.member?.says, cell.member?.is_part_filled && WHY_IN_PART].filter(Boolean).join('\n')"
  >
    <button
      v-if="cell.member?.can_open"
      class="plain-button turn"
      tabindex="-1"
      :aria-label="toggleWords"
      :aria-expanded="cell.member.is_open"
      @click="toggle"
    >
      <v-icon :icon="icon" size="16" />
    </button>
    <DragThing
      v-if="cell.member"
      class="caption"
      in-grid
      :thing="memberThing(cell.member, cell.chain, 'columns')"
      :drag="dimensionThing(cell.member.dimension, cell.member.hierarchy)"
      @pick="emit('pick', $event)"
      >{{ cell.member ? labelOf(cell.member, workspace.document?.dress) : cell.caption }}</DragThing
    >
    <span v-else class="caption">{{ cell.caption }}</span>
  </span>
</template>

<style scoped>
.head {
  position: sticky;
  left: var(--label-width);
  display: inline-flex;
  align-items: center;
  min-width: 0;
  max-width: 100%;
  font-weight: 600;
}

.turn {
  display: flex;
  align-items: center;
  width: 15px;
  height: 20px;
}

.caption {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.joint .caption {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}

.picked {
  color: rgb(var(--v-theme-secondary));
  background: rgb(var(--v-theme-secondary-tint));
}

.total {
  font-weight: 400;
  font-style: italic;
  color: rgb(var(--v-theme-soft));
}

.nowhere {
  font-style: italic;
}

/* A slanted last letter leans out of its box, which cuts what overflows. */
.total .caption,
.nowhere .caption {
  padding-right: 3px;
}
</style>
