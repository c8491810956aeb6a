<script setup lang="ts">
// The records behind a number: exactly those, with a count and a value that agree with it, and say so.
import { mdiOpenInNew } from '@mdi/js'
import { refDebounced } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { GET, body } from '@/api/client'
import type { Account, ListedRecords } from '@/api/types'
import { useProblem } from '@/shell/problem'
import type { CellLines } from '../thingMenu'
import { counted, grouped } from './digits'

const PAGE = 100
const props = defineProps<{ handle: string; cell: CellLines; account: Account }>()
const problem = useProblem()
const part = ref(props.account.operands[0]?.name ?? '')
const search = ref('')
const wanted = refDebounced(search, 250)
const order = ref<{ column: string; descending: boolean } | null>(null)
const columns = ref<string[] | null>(null)
const start = ref(0)
const listed = shallowRef<ListedRecords | null>(null)
/** What those listed were found and put in order by: what is said of them is true of them, not of what was asked since. */
const listedBy = shallowRef<{ search: string; order: typeof order.value }>({ search: '', order: null })
let asked = 0

const operand = computed(() => props.account.operands.find((each) => each.name === part.value))
const shown = computed(() => listed.value?.columns.filter((each) => each.is_shown) ?? [])
const hasPages = computed(() => listed.value?.records.some((each) => each.page) ?? false)
const query = computed(() => ({
  ...props.cell,
  part: part.value,
  search: wanted.value,
  order: order.value?.column ?? null,
  descending: order.value?.descending ?? false,
  columns: columns.value,
}))
/** The columns that hold numbers, as far as they are in sight. */
const figures = computed(
  () =>
    new Set(
      shown.value
        .filter(
          (_, at) =>
            listed.value?.records.length &&
            listed.value.records.every((each) => /^-?[\d.]*$/.test(each.texts[at] ?? '')),
        )
        .map((each) => each.name),
    ),
)
const proof = computed(() => {
  const { agrees, from_records, value, measure } = props.account
  if (agrees === null) return ''
  if (agrees)
    return `worked out from them by itself, ${measure} comes to ${grouped(from_records)}: the same as in the table.`
  return `worked out from them by itself, ${measure} comes to ${grouped(from_records)}, and the table shows ${grouped(value)}. They do not agree: tell whoever keeps the model.`
})
const address = computed(() => {
  const found = new URLSearchParams()
  for (const [name, value] of Object.entries(query.value)) {
    if (Array.isArray(value)) value.forEach((each) => found.append(name, each))
    else if (value !== null && value !== '') found.append(name, String(value))
  }
  return `/api/answers/${props.handle}/records.csv?${found}`
})

watch([wanted, order, columns, part], () => (start.value = 0))
watch(part, () => {
  columns.value = null
  order.value = null
})
watch(
  [query, start],
  async () => {
    const mine = ++asked
    const { order: by, columns: own, ...rest } = query.value
    const sent = {
      ...rest,
      start: start.value,
      count: PAGE,
      ...(by ? { order: by } : {}),
      ...(own ? { columns: own } : {}),
    }
    try {
      const found = await body(
        GET('/api/answers/{handle}/records', { params: { path: { handle: props.handle }, query: sent } }),
      )
      if (mine !== asked) return
      listed.value = found
      listedBy.value = { search: rest.search, order: by ? { column: by, descending: rest.descending } : null }
    } catch (error) {
      problem.tell(error)
    }
  },
  { immediate: true },
)

function sortBy(column: string): void {
  const now = order.value
  order.value =
    now?.column !== column ? { column, descending: false } : now.descending ? null : { column, descending: true }
}

function sorted(column: string): 'ascending' | 'descending' | 'none' {
  const by = listedBy.value.order
  if (by?.column !== column) return 'none'
  return by.descending ? 'descending' : 'ascending'
}

function turnColumn(name: string): void {
  const now = shown.value.map((each) => each.name)
  const next = now.includes(name) ? now.filter((each) => each !== name) : [...now, name]
  if (next.length) columns.value = next
}

function moveColumn(name: string, by: number): void {
  const now = shown.value.map((each) => each.name)
  const at = now.indexOf(name)
  const to = at + by
  if (to < 0 || to >= now.length) return
  now.splice(to, 0, ...now.splice(at, 1))
  columns.value = now
}
</script>

<template>
  <p v-if="account.operands.length > 1" class="parts">
    <span class="soft">{{ account.formula }}. The records of</span>
    <button
      v-for="each in account.operands"
      :key="each.name"
      type="button"
      class="plain-button part"
      :aria-pressed="part === each.name"
      @click="part = each.name"
    >
      {{ each.caption }}
    </button>
  </p>
  <p class="proof" :class="{ wrong: account.agrees === false }">
    <strong>{{ counted(operand?.records ?? 0, 'record') }}</strong><template v-if="operand?.note">
      {{ operand.note }}</template
    ><template v-if="proof">; {{ proof }}</template>
  </p>
  <div class="tools">
    <input
      v-model="search"
      class="search search-field"
      type="search"
      placeholder="Find in these records"
      aria-label="Find in these records"
    />
    <span v-if="listed && listedBy.search" class="soft">{{ counted(listed.found, 'record') }} of them</span>
    <span class="space" />
    <v-menu :close-on-content-click="false">
      <template #activator="{ props: opener }"><v-btn v-bind="opener">Columns</v-btn></template>
      <ul class="columns">
        <li v-for="each in listed?.columns" :key="each.name">
          <label
            ><input type="checkbox" :checked="each.is_shown" @change="turnColumn(each.name)" />
            {{ each.caption }}</label
          >
          <template v-if="each.is_shown">
            <button
              type="button"
              class="plain-button"
              :aria-label="`${each.caption} further left`"
              @click="moveColumn(each.name, -1)"
            >
              ←
            </button>
            <button
              type="button"
              class="plain-button"
              :aria-label="`${each.caption} further right`"
              @click="moveColumn(each.name, 1)"
            >
              →
            </button>
          </template>
        </li>
      </ul>
    </v-menu>
    <v-btn :href="address" download>Take away as CSV</v-btn>
  </div>
  <div class="scroll" tabindex="0" role="region" aria-label="Records">
    <table>
      <thead>
        <tr>
          <th v-if="hasPages" scope="col"><span class="unseen">Its page</span></th>
          <th
            v-for="each in shown"
            :key="each.name"
            scope="col"
            :aria-sort="sorted(each.name)"
            :class="{ own: each.is_own, figure: figures.has(each.name) }"
          >
            <button type="button" class="plain-button" :title="`Order by ${each.caption}`" @click="sortBy(each.name)">
              {{ each.caption
              }}<span v-if="sorted(each.name) !== 'none'" aria-hidden="true">
                {{ sorted(each.name) === 'ascending' ? '▴' : '▾' }}</span
              >
            </button>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(record, at) in listed?.records" :key="start + at">
          <td v-if="hasPages">
            <a
              v-if="record.page"
              :href="record.page"
              target="_blank"
              rel="noopener"
              :aria-label="`Open the page of ${record.texts[0]}`"
              title="Its page in the system that it came from"
              ><v-icon :icon="mdiOpenInNew" size="15"
            /></a>
          </td>
          <td
            v-for="(text, place) in record.texts"
            :key="place"
            :class="{ figure: figures.has(shown[place]?.name ?? ''), own: shown[place]?.is_own, blank: !text }"
          >
            {{ text || 'blank' }}
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="listed && !listed.found" class="soft none">
      {{ listed.total ? 'None of the records holds that.' : 'There are no records here.' }}
    </p>
  </div>
  <div v-if="listed && listed.found > PAGE" class="pages">
    <v-btn :disabled="start === 0" @click="start = 0">First</v-btn>
    <v-btn :disabled="start === 0" @click="start -= PAGE">Before</v-btn>
    <span
      >{{ (start + 1).toLocaleString('en-GB') }} to
      {{ Math.min(start + PAGE, listed.found).toLocaleString('en-GB') }} of
      {{ listed.found.toLocaleString('en-GB') }}</span
    >
    <v-btn :disabled="start + PAGE >= listed.found" @click="start += PAGE">Next</v-btn>
    <v-btn :disabled="start + PAGE >= listed.found" @click="start = Math.floor((listed.found - 1) / PAGE) * PAGE"
      >Last</v-btn
    >
  </div>
</template>

<style scoped>
p {
  margin: 0;
}

.part {
  margin-left: 10px;
  border-bottom: 2px solid transparent;
}

.part[aria-pressed='true'] {
  font-weight: 600;
  border-bottom-color: rgb(var(--v-theme-secondary));
}

.wrong {
  color: rgb(var(--v-theme-error));
}

.tools,
.pages {
  display: flex;
  flex: none;
  gap: 8px;
  align-items: center;
}

.pages {
  justify-content: center;
}

.space {
  flex: 1;
}

.search {
  width: 260px;
}

.columns {
  max-height: 360px;
  margin: 0;
  padding: 8px 14px;
  overflow: auto;
  list-style: none;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-rule));
}

.columns li {
  display: flex;
  gap: 8px;
  align-items: center;
}

.columns label {
  flex: 1;
  margin-right: 14px;
}

.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
  border-top: 1px solid rgb(var(--v-theme-on-surface));
}

table {
  width: 100%;
  border-collapse: collapse;
}

th {
  font-weight: 500;
  position: sticky;
  top: 0;
  font-size: 12px;
  text-align: left;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgb(var(--v-theme-rule));
}

th,
td {
  padding: 1px 14px 1px 2px;
  white-space: nowrap;
}

td {
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

a {
  color: rgb(var(--v-theme-secondary));
}

th.own,
td.own {
  font-weight: 650;
}

th.figure,
td.figure {
  text-align: right;
}

.blank {
  font-style: italic;
  color: rgb(var(--v-theme-soft));
}

.none {
  padding: 12px 2px;
}
</style>
