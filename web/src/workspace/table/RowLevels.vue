<script setup lang="ts">
// A row's label in columns, one for each level. Its own member stands in its level's column; those in which it
// stands are named before it, once or in every row.
import { computed } from 'vue'
import type { RowHeader, ShownMeasure } from '@/api/types'
import { useWorkspace } from '../store'
import RowLabel from './RowLabel.vue'
import { labelOf } from './labels'
import { isOfLevel, ownColumn, type LevelColumn } from './levels'

const props = defineProps<{
  row: RowHeader
  previous?: RowHeader
  columns: readonly LevelColumn[]
  measure?: ShownMeasure
  picked?: boolean
}>()
const emit = defineEmits<{ pick: [event: MouseEvent] }>()
const workspace = useWorkspace()
const dress = computed(() => workspace.document?.dress)
const own = computed(() => ownColumn(props.row, props.columns))
const outer = computed(() => {
  let isNew = dress.value?.repeats_labels ?? false
  return props.columns.map((column, at) => {
    if (at === own.value) return ''
    const member = props.row.members.find((each) => isOfLevel(each, column))
    if (!member) return ''
    const above = props.previous?.members.find((each) => isOfLevel(each, column))
    isNew ||= JSON.stringify(above?.path) !== JSON.stringify(member.path)
    return isNew ? labelOf(member, dress.value) : ''
  })
})
</script>

<template>
  <span class="levels">
    <span v-for="(column, at) in columns" :key="at" class="level" :style="{ width: `${column.width}px` }">
      <RowLabel v-if="at === own" :row="row" :measure="measure" :picked="picked" flat @pick="emit('pick', $event)" />
      <span v-else class="outer" :title="outer[at]">{{ outer[at] }}</span>
    </span>
  </span>
</template>

<style scoped>
.levels {
  display: flex;
  width: 100%;
  overflow: hidden;
}

.level {
  flex: none;
  min-width: 0;
  padding-right: 6px;
  overflow: hidden;
  white-space: nowrap;
}

.level:last-child {
  flex: 1;
}

.outer {
  display: block;
  padding-left: 15px;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
