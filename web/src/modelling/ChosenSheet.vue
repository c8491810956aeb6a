<script setup lang="ts">
// What is known of the thing that is looked at; with none, what the data speaks for and what was taken to be so.
import { computed } from 'vue'
import ColumnSheet from './sheets/ColumnSheet.vue'
import NoticedSheet from './sheets/NoticedSheet.vue'
import TableSheet from './sheets/TableSheet.vue'
import TieSheet from './sheets/TieSheet.vue'
import { useShaping } from './shaping'

const shaping = useShaping()
const chosen = computed(() => shaping.chosen)
/** The tie that is chosen, if it is there still. */
const tie = computed(() => {
  const own = chosen.value
  return own?.kind === 'tie'
    ? shaping.model?.relationships?.find((each) => each.from_table === own.table && each.role === own.role)
    : undefined
})
const table = computed(() => {
  const own = chosen.value
  return (own?.kind === 'table' || own?.kind === 'column') && shaping.model && own.table in shaping.model.tables
    ? own.table
    : ''
})
</script>

<template>
  <TieSheet v-if="tie" :key="`${tie.from_table}/${tie.role}`" :tie="tie" />
  <ColumnSheet
    v-else-if="table && chosen?.kind === 'column'"
    :key="`${table}.${chosen.column}`"
    :table="table"
    :column="chosen.column"
  />
  <TableSheet v-else-if="table" :key="table" :table="table" />
  <NoticedSheet v-else />
</template>
