<script setup lang="ts">
// What tells the members of a dimension apart: each by a column, under captions of another, in the order of a third.
import { mdiClose } from '@mdi/js'
import { computed } from 'vue'
import type { ModelAttribute, ModelDimension } from '@/api/types'
import { useShaping } from '../shaping'
import { nameOf, tableCaption } from '../words'

const props = defineProps<{ dimension: ModelDimension }>()
const shaping = useShaping()
const columns = computed(() => columnsOf(props.dimension.table))
/** Columns that are no attribute yet, nor say how one is called or ordered. */
const free = computed(() => {
  const used = new Set(
    props.dimension.attributes
      .filter((each) => !each.table)
      .flatMap((each) => [each.key, each.caption_column, each.sort_column]),
  )
  return columns.value.filter((each) => !used.has(each))
})

function columnsOf(table: string): string[] {
  return shaping.tableLook(table)?.columns.map((each) => each.name) ?? []
}

function put(attribute: ModelAttribute, said: Partial<ModelAttribute>): void {
  void shaping.act({ kind: 'put_attribute', dimension: props.dimension.name, attribute: { ...attribute, ...said } })
}

function call(attribute: ModelAttribute, event: Event): void {
  const caption = (event.target as HTMLInputElement).value.trim()
  if (caption && caption !== attribute.caption) put(attribute, { caption })
}

function add(column: string): void {
  const attribute = {
    name: nameOf(
      column,
      props.dimension.attributes.map((each) => each.name),
      'level',
    ),
    caption: tableCaption(column),
    key: column,
  }
  void shaping.act({ kind: 'put_attribute', dimension: props.dimension.name, attribute })
}

function valueOf(event: Event): string {
  return (event.target as HTMLSelectElement).value
}
</script>

<template>
  <table class="attributes">
    <thead>
      <tr>
        <th scope="col">called</th>
        <th scope="col">by column</th>
        <th scope="col">members called by</th>
        <th scope="col">in the order of</th>
        <td />
      </tr>
    </thead>
    <tbody>
      <tr v-for="each in dimension.attributes" :key="each.name">
        <td>
          <input
            class="field"
            :value="each.caption ?? each.name"
            :aria-label="`Caption of ${each.name}`"
            @change="call(each, $event)"
          />
        </td>
        <td class="key" :title="each.table ? `of ${tableCaption(each.table)}` : undefined">
          {{ each.key }}<span v-if="each.table" class="soft"> of {{ tableCaption(each.table) }}</span>
        </td>
        <td>
          <select
            class="field"
            :value="each.caption_column ?? ''"
            :aria-label="`Members of ${each.caption ?? each.name} are called by`"
            @change="put(each, { caption_column: valueOf($event) || null })"
          >
            <option value="">itself</option>
            <option v-for="column in columnsOf(each.table ?? dimension.table)" :key="column" :value="column">
              {{ column }}
            </option>
          </select>
        </td>
        <td>
          <select
            class="field"
            :value="each.sort_column ?? ''"
            :aria-label="`${each.caption ?? each.name} in the order of`"
            @change="put(each, { sort_column: valueOf($event) || null })"
          >
            <option value="">itself</option>
            <option v-for="column in columnsOf(each.table ?? dimension.table)" :key="column" :value="column">
              {{ column }}
            </option>
          </select>
        </td>
        <td>
          <v-btn
            :icon="mdiClose"
            size="22"
            :aria-label="`Leave out ${each.caption ?? each.name}`"
            :title="`Leave out ${each.caption ?? each.name}`"
            @click="shaping.act({ kind: 'leave_out_attribute', dimension: dimension.name, name: each.name })"
          />
        </td>
      </tr>
    </tbody>
  </table>
  <select
    v-if="free.length"
    class="field add"
    aria-label="Another column tells them apart"
    value=""
    @change="(add(valueOf($event)), (($event.target as HTMLSelectElement).value = ''))"
  >
    <option value="">another column…</option>
    <option v-for="column in free" :key="column" :value="column">{{ column }}</option>
  </select>
</template>

<style scoped src="../fields.css" />
<style scoped>
.attributes {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
}

th {
  font-size: 11px;
  font-weight: 400;
  color: rgb(var(--v-theme-soft));
  text-align: left;
}

thead td {
  width: 26px;
}

td {
  padding: 1px 8px 1px 0;
}

td:last-child {
  padding: 0;
}

.key {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.add {
  width: 170px;
}
</style>
