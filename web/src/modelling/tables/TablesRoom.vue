<script setup lang="ts">
// Each table as it is read: its first records, and above each column what it holds.
import { computed, ref } from 'vue'
import { useShaping } from '../shaping'
import { counted, kindWords, many, tableCaption } from '../words'

const shaping = useShaping()
const wanted = ref('')
const names = computed(() => Object.keys(shaping.model?.tables ?? {}))
const name = computed(() => {
  const own = shaping.chosen
  if (own && 'table' in own && names.value.includes(own.table)) return own.table
  return names.value.includes(wanted.value) ? wanted.value : (names.value[0] ?? '')
})
const look = computed(() => shaping.tableLook(name.value))
const declared = computed(() => shaping.model?.tables[name.value])
const count = computed(() => Math.max(0, ...(look.value?.columns ?? []).map((each) => each.first.length)))

function choose(table: string): void {
  wanted.value = table
  shaping.choose({ kind: 'table', table })
}

function isNumber(at: number): boolean {
  return ['whole', 'decimal', 'float'].includes(look.value?.columns[at]?.profile?.kind ?? '')
}

function isChosen(column: string): boolean {
  return shaping.chosen?.kind === 'column' && shaping.chosen.column === column
}

/** Whether a value is one that its column does not fit. */
function notice(column: string): string {
  const own = look.value?.columns.find((each) => each.name === column)
  const tie = shaping.tieOf(name.value, column)
  if (own?.trouble) return 'does not fit'
  if (tie) return `→ ${tableCaption(tie.to_table)}`
  const blanks = own?.profile?.blanks ? `, ${counted(own.profile.blanks)} blank` : ''
  return `${kindWords(own, declared.value)}${blanks}`
}
</script>

<template>
  <div class="tables-room">
    <ul class="list" aria-label="Tables">
      <li v-for="each in names" :key="each">
        <button
          type="button"
          class="plain-button"
          :class="{ here: each === name }"
          :aria-current="each === name ? 'true' : undefined"
          @click="choose(each)"
        >
          <span class="caption">{{ tableCaption(each) }}</span>
          <span class="soft count">{{
            shaping.tableLook(each)?.trouble ? 'cannot be read' : counted(shaping.tableLook(each)?.records ?? 0)
          }}</span>
        </button>
      </li>
    </ul>
    <div class="records" tabindex="0" :aria-label="`First records of ${tableCaption(name)}`">
      <p v-if="look?.trouble" class="trouble" role="alert">{{ look.trouble }}</p>
      <table v-else-if="look">
        <caption class="soft">
          {{
            declared?.file ?? 'made, day by day'
          }}
          ·
          {{
            many(look.records, 'record')
          }}, of which the first
          {{
            count
          }}
          stand here as they are written
        </caption>
        <thead>
          <tr>
            <th
              v-for="(each, at) in look.columns"
              :key="each.name"
              scope="col"
              :class="{ number: isNumber(at), chosen: isChosen(each.name), odd: each.trouble }"
            >
              <button
                type="button"
                class="plain-button"
                @click="shaping.choose({ kind: 'column', table: name, column: each.name })"
              >
                {{ each.name }}<span class="soft kind">{{ notice(each.name) }}</span>
              </button>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in count" :key="row">
            <td
              v-for="(each, at) in look.columns"
              :key="each.name"
              :class="{ number: isNumber(at), chosen: isChosen(each.name), blank: !each.first[row - 1] }"
            >
              {{ each.first[row - 1] || '·' }}
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else class="soft" role="status">The table is being looked at.</p>
    </div>
  </div>
</template>

<style scoped>
.tables-room {
  display: grid;
  grid-template-columns: 190px minmax(0, 1fr);
}

.list {
  margin: 0;
  padding: 4px 0 12px 10px;
  overflow: auto;
  list-style: none;
  border-right: 1px solid rgb(var(--v-theme-hair));
}

.list button {
  display: flex;
  gap: 8px;
  align-items: baseline;
  justify-content: space-between;
  width: 100%;
  padding: 2px 10px 2px 8px;
}

.list button:hover,
.here {
  background: rgb(var(--v-theme-hair));
}

.here .caption {
  font-weight: 600;
}

.caption {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.count {
  font-size: 11px;
  white-space: nowrap;
}

.records {
  padding: 0 18px 18px;
  overflow: auto;
}

table {
  border-collapse: collapse;
}

caption {
  padding: 2px 0 8px;
  text-align: left;
  white-space: nowrap;
}

thead th {
  position: sticky;
  top: 0;
  padding: 0;
  text-align: left;
  vertical-align: bottom;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgb(var(--v-theme-on-background));
}

thead button {
  display: block;
  width: 100%;
  padding: 3px 10px;
  font-weight: 600;
  white-space: nowrap;
}

.number,
.number button {
  text-align: right;
}

.kind {
  display: block;
  font-size: 11px;
  font-weight: 400;
  line-height: 14px;
}

td {
  max-width: 260px;
  height: 21px;
  padding: 0 10px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.blank {
  color: rgb(var(--v-theme-soft));
}

.chosen {
  background: rgb(var(--v-theme-tint));
}

.odd button {
  background: rgb(var(--v-theme-saffron-tint));
}

.trouble {
  padding: 6px 8px;
  background: rgb(var(--v-theme-saffron-tint));
}
</style>
