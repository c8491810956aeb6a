<script setup lang="ts">
// A column: what it holds and why it is taken so, what it points at, and what can be made of it.
import { computed, ref, shallowRef, watch } from 'vue'
import { GET } from '@/api/client'
import type { ModelGesture } from '@/api/types'
import OfferList from './OfferList.vue'
import { useShaping } from '../shaping'
import { columnOf, counted, kindWords, nameOf, quoted, tableCaption } from '../words'

const props = defineProps<{ table: string; column: string }>()
const shaping = useShaping()
const declared = computed(() => shaping.model?.tables[props.table]?.columns?.[props.column])
const look = computed(() => shaping.columnLook(props.table, props.column))
const profile = computed(() => look.value?.profile ?? null)
const tie = computed(() => shaping.tieOf(props.table, props.column))
const isKeyOf = computed(
  () =>
    shaping.model?.relationships?.some((each) => each.to_table === props.table && each.to_column === props.column) ??
    false,
)
const offers = computed(() =>
  (shaping.bench?.offers ?? []).filter((each) => each.about === `${props.table}.${props.column}`),
)
const isMade = computed(() => !!shaping.model?.tables[props.table]?.calendar)
const measures = computed(() =>
  (shaping.model?.measures ?? []).filter(
    (each) => each.table === props.table && columnOf(each.expression) === props.column,
  ),
)
const common = shallowRef<{ value: string; records: number }[]>([])

type ColumnType = Extract<ModelGesture, { kind: 'type_column' }>['type']
const TYPES: { value: NonNullable<ColumnType> | ''; title: string }[] = [
  { value: '', title: 'what its values tell' },
  { value: 'text', title: 'text' },
  { value: 'integer', title: 'whole numbers' },
  { value: 'decimal', title: 'decimals, exact' },
  { value: 'float', title: 'numbers' },
  { value: 'date', title: 'dates' },
  { value: 'boolean', title: 'yes or no' },
]
const DAY_FORMS = [
  { value: '', title: '2025-12-31' },
  { value: '%d.%m.%Y', title: '31.12.2025' },
  { value: '%d/%m/%Y', title: '31/12/2025' },
  { value: '%m/%d/%Y', title: '12/31/2025' },
  { value: '%d-%m-%Y', title: '31-12-2025' },
  { value: '%Y%m%d', title: '20251231' },
  { value: 'serial', title: 'a spreadsheet’s number of the day' },
]
const type = ref<string>('')
const form = ref('')
watch(
  declared,
  (own) => {
    type.value = own?.type ?? ''
    form.value = typeof own?.date_format === 'string' ? own.date_format : (own?.date_format?.[0] ?? '')
  },
  { immediate: true },
)
watch(
  () => [props.table, props.column, shaping.turn],
  async () => {
    const path = { ...shaping.path, table: props.table, column: props.column }
    const found = await GET('/api/modelling/{model}/tables/{table}/columns/{column}', { params: { path } })
    common.value = found.data ?? []
  },
  { immediate: true },
)

/** What a column may point at: keys of other tables, each value of which stands once. */
const targets = computed(() => {
  const found = []
  for (const other of shaping.bench?.tables ?? []) {
    if (other.name === props.table) continue
    const isCalendar = !!shaping.model?.tables[other.name]?.calendar
    for (const each of other.columns) {
      const own = each.profile
      if (
        own &&
        own.blanks === 0 &&
        own.distinct === own.records &&
        (isCalendar ? each.name === 'date' : own.kind !== 'decimal' && own.kind !== 'float')
      )
        found.push({ value: `${other.name}.${each.name}`, table: other.name, column: each.name, isCalendar })
    }
  }
  return found
})
const target = computed(() => (tie.value ? `${tie.value.to_table}.${tie.value.to_column}` : ''))

async function pointAt(value: string): Promise<void> {
  const found = targets.value.find((each) => each.value === value)
  if (!found) {
    if (tie.value) await shaping.act({ kind: 'untie', table: props.table, role: tie.value.role })
    return
  }
  const isDone = found.isCalendar
    ? await shaping.act({ kind: 'make_calendar', table: props.table, column: props.column })
    : await shaping.act({
        kind: 'tie',
        from_table: props.table,
        from_column: props.column,
        to_table: found.table,
        to_column: found.column,
        role: '',
      })
  const made = shaping.tieOf(props.table, props.column)
  if (isDone && made) shaping.choose({ kind: 'tie', table: props.table, role: made.role })
}

function setType(): void {
  const isDate = type.value === 'date'
  void shaping.act({
    kind: 'type_column',
    table: props.table,
    column: props.column,
    type: (type.value || null) as ColumnType,
    date_format: isDate && form.value ? form.value : null,
  })
}

function seeBy(): void {
  const model = shaping.model!
  const caption = tableCaption(props.column)
  const captions = model.dimensions.map((each) => each.caption)
  const name = nameOf(
    props.column,
    model.dimensions.map((each) => each.name),
    'dimension',
  )
  const attribute = { name: nameOf(props.column, [], 'level'), key: props.column, caption }
  void shaping.act({
    kind: 'put_dimension',
    dimension: {
      name,
      caption: captions.includes(caption) ? `${caption} of ${tableCaption(props.table)}` : caption,
      table: props.table,
      attributes: [attribute],
      hierarchies: [{ name, levels: [attribute.name], sets: [], blanks: 'show' }],
      alternatives: false,
      default: [],
      description: '',
      synonyms: [],
    },
  })
}

function measureOf(aggregate: 'sum' | 'distinct' | 'average'): void {
  const model = shaping.model!
  const words = {
    sum: tableCaption(props.column),
    distinct: `Different ${tableCaption(props.column).toLowerCase()}`,
    average: `Average ${tableCaption(props.column).toLowerCase()}`,
  }[aggregate]
  const captions = model.measures.map((each) => each.caption)
  let caption = words
  for (let number = 2; captions.includes(caption); number += 1) caption = `${words} (${number})`
  const digits =
    aggregate === 'average' ? 2 : aggregate === 'sum' && profile.value?.kind === 'decimal' ? profile.value.scale : 0
  void shaping.act({
    kind: 'put_measure',
    measure: {
      name: nameOf(
        caption,
        model.measures.map((each) => each.name),
        'measure',
      ),
      caption,
      table: props.table,
      aggregate,
      expression: quoted(props.column),
      format: digits ? `#,##0.${'0'.repeat(Math.min(digits, 4))}` : '#,##0',
      over_time: 'last',
      where: [],
      unit: '',
      folder: tableCaption(props.table),
      description: '',
      synonyms: [],
      roles: rolesOf(props.table),
    },
  })
}

/** The roles by which the measures of a table that are there reach what they reach in several. */
function rolesOf(table: string): Record<string, string> {
  return {
    ...(shaping.model!.measures.find((each) => each.table === table && !['ratio', 'formula'].includes(each.aggregate))
      ?.roles ?? {}),
  }
}
</script>

<template>
  <aside :aria-label="`Column ${column} of ${tableCaption(table)}`">
    <h2>{{ column }} <i>of</i> {{ tableCaption(table) }}</h2>
    <p v-if="look?.trouble" class="trouble" role="alert">{{ look.trouble }}</p>
    <dl v-if="profile" class="facts">
      <dt>holds</dt>
      <dd>{{ kindWords(look, shaping.model?.tables[table]) }}</dd>
      <template v-if="!['decimal', 'float', 'nothing'].includes(profile.kind)"
        ><dt>different values</dt>
        <dd>{{ counted(profile.distinct) }}</dd></template
      >
      <dt>left blank</dt>
      <dd>{{ counted(profile.blanks) }}</dd>
      <template v-if="profile.least !== null && profile.least !== undefined"
        ><dt>from</dt>
        <dd>{{ typeof profile.least === 'number' ? counted(profile.least) : profile.least }}</dd>
        <dt>to</dt>
        <dd>{{ typeof profile.greatest === 'number' ? counted(profile.greatest) : profile.greatest }}</dd></template
      >
    </dl>
    <p v-if="isKeyOf" class="soft">
      A key: other tables point at it<template v-if="profile && profile.distinct === profile.records"
        >, and each of its values stands once</template
      >.
    </p>
    <p
      v-else-if="profile && profile.records > 1 && !profile.blanks && profile.distinct === profile.records"
      class="soft"
    >
      Each value stands once: it could be a key.
    </p>
    <OfferList
      v-if="offers.length"
      :offers="offers"
      title="Seen in the data"
      @take="(offer) => shaping.act(offer.gesture)"
    />
    <template v-if="!isMade">
      <h3>What it is</h3>
      <label
        ><span class="soft">holds</span>
        <select v-model="type" class="field" :disabled="!!declared?.formula" @change="setType">
          <option v-for="each in TYPES" :key="each.value" :value="each.value">{{ each.title }}</option>
        </select>
      </label>
      <label v-if="type === 'date'"
        ><span class="soft">written as</span>
        <select v-model="form" class="field" @change="setType">
          <option v-for="each in DAY_FORMS" :key="each.value" :value="each.value">{{ each.title }}</option>
        </select>
      </label>
      <label v-if="profile?.kind === 'whole' || declared?.is_key" class="tick">
        <input
          type="checkbox"
          :checked="declared?.is_key ?? false"
          @change="
            shaping.act({ kind: 'name_something', table, column, is_key: ($event.target as HTMLInputElement).checked })
          "
        />
        <span>names something, a card for example: it is counted, never added up</span>
      </label>
      <label
        ><span class="soft">points at</span>
        <select
          class="field"
          :value="target"
          aria-label="Points at"
          @change="pointAt(($event.target as HTMLSelectElement).value)"
        >
          <option value="">nothing</option>
          <option v-for="each in targets" :key="each.value" :value="each.value">
            {{ tableCaption(each.table) }}: {{ each.column }}
          </option>
        </select>
      </label>
      <button
        v-if="tie"
        type="button"
        class="plain-button go look"
        @click="shaping.choose({ kind: 'tie', table, role: tie.role })"
      >
        What it finds there
      </button>
      <h3 v-if="profile && profile.kind !== 'nothing'">Make of it</h3>
      <div class="row wrap">
        <button
          v-if="profile && ['whole', 'decimal', 'float'].includes(profile.kind) && !declared?.is_key"
          type="button"
          class="plain-button go"
          @click="measureOf('sum')"
        >
          a sum
        </button>
        <button
          v-if="profile && ['whole', 'decimal', 'float'].includes(profile.kind) && !declared?.is_key"
          type="button"
          class="plain-button go"
          @click="measureOf('average')"
        >
          an average
        </button>
        <button
          v-if="profile && !['decimal', 'float', 'nothing'].includes(profile.kind)"
          type="button"
          class="plain-button go"
          @click="measureOf('distinct')"
        >
          a count of different ones
        </button>
        <button
          v-if="profile && !tie && !['decimal', 'float', 'nothing'].includes(profile.kind)"
          type="button"
          class="plain-button go"
          @click="seeBy"
        >
          a dimension
        </button>
      </div>
      <p v-if="measures.length" class="soft">Measures of it: {{ measures.map((each) => each.caption).join(', ') }}</p>
    </template>
    <template v-if="common.length">
      <h3>Found most often</h3>
      <dl class="facts">
        <template v-for="each in common" :key="each.value"
          ><dt>{{ each.value }}</dt>
          <dd>{{ counted(each.records) }}</dd></template
        >
      </dl>
    </template>
  </aside>
</template>

<style scoped src="../fields.css" />
<style scoped src="../sheet.css" />
<style scoped>
.wrap {
  flex-wrap: wrap;
}

.look {
  align-self: start;
}
</style>
