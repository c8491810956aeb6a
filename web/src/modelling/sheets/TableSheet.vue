<script setup lang="ts">
// A table: what it is read from and how, and what is made of it.
import { computed, ref, watch } from 'vue'
import type { ModelGesture } from '@/api/types'
import CalendarForm from './CalendarForm.vue'
import LeaveOut from '../LeaveOut.vue'
import OfferList from './OfferList.vue'
import { useShaping } from '../shaping'
import { many, tableCaption } from '../words'

const props = defineProps<{ table: string }>()
const shaping = useShaping()
const declared = computed(() => shaping.model!.tables[props.table]!)
const look = computed(() => shaping.tableLook(props.table))
const isText = computed(() => /\.(csv|tsv|txt)(\.gz)?$/i.test(declared.value.file ?? ''))
const isSheet = computed(() => /\.(xlsx|xlsm|xls|ods)$/i.test(declared.value.file ?? ''))
const measures = computed(() => shaping.model!.measures.filter((each) => each.table === props.table))
const dimensions = computed(() => shaping.model!.dimensions.filter((each) => each.table === props.table))
const offers = computed(() => (shaping.bench?.offers ?? []).filter((each) => each.about.split('.')[0] === props.table))

const DELIMITERS = [
  { value: ',', title: 'comma' },
  { value: ';', title: 'semicolon' },
  { value: '\t', title: 'tab' },
  { value: '|', title: 'upright line' },
]
const FORMS = [
  { value: '', title: '1234.5, and nothing else' },
  { value: '.|,', title: '1,234.5' },
  { value: ',|.', title: '1.234,5' },
  { value: ',| ', title: '1 234,5' },
  { value: ',|', title: '1234,5' },
  { value: ".|'", title: "1'234.5" },
  { value: '.|', title: '1234.5, with signs and per cent' },
]
const form = ref({ delimiter: ',', encoding: 'utf-8', header: 1, footer: 0, blanks: '', numbers: '' })
watch(
  declared,
  (table) => {
    const numbers = table.numbers ? `${table.numbers.decimal}|${table.numbers.thousands}` : ''
    form.value = {
      delimiter: table.delimiter,
      encoding: table.encoding,
      header: table.header,
      footer: table.footer,
      blanks: table.blanks.join(', '),
      numbers,
    }
  },
  { immediate: true },
)

function read(said: Omit<Extract<ModelGesture, { kind: 'read_table' }>, 'kind' | 'table'>): void {
  void shaping.act({ kind: 'read_table', table: props.table, ...said })
}

function readNumbers(chosen: string): void {
  const [decimal, thousands] = chosen.split('|')
  if (chosen) read({ numbers: { decimal, thousands } as { decimal: '.' | ','; thousands: '' | '.' } })
}

async function leaveOut(): Promise<void> {
  if (await shaping.act({ kind: 'leave_out_table', table: props.table })) shaping.choose(null)
}
</script>

<template>
  <aside :aria-label="`Table ${tableCaption(table)}`">
    <h2>{{ tableCaption(table) }}</h2>
    <p v-if="declared.file" class="soft">
      {{ declared.file }}<template v-if="declared.sheet">, {{ declared.sheet }}</template
      ><template v-if="look && !look.trouble"> · {{ many(look.records, 'record') }}</template>
    </p>
    <p v-if="look?.trouble" class="trouble" role="alert">{{ look.trouble }}</p>
    <CalendarForm v-if="declared.calendar" :table="table" :calendar="declared.calendar" />
    <template v-if="isText || isSheet">
      <h3>How it is read</h3>
      <label v-if="isText"
        ><span class="soft">values parted by</span>
        <select v-model="form.delimiter" class="field" @change="read({ delimiter: form.delimiter })">
          <option v-for="each in DELIMITERS" :key="each.value" :value="each.value">{{ each.title }}</option>
        </select>
      </label>
      <label v-if="isText"
        ><span class="soft">letters as</span>
        <input v-model="form.encoding" class="field" @change="read({ encoding: form.encoding.trim() })" />
      </label>
      <label
        ><span class="soft">names in line</span>
        <input
          v-model.number="form.header"
          class="field"
          type="number"
          min="0"
          title="0 where there is no line of names"
          @change="read({ header: form.header })"
        />
      </label>
      <label
        ><span class="soft">no records at end</span>
        <input
          v-model.number="form.footer"
          class="field"
          type="number"
          min="0"
          title="How many lines at the end are no records, such as a total"
          @change="read({ footer: form.footer })"
        />
      </label>
      <label
        ><span class="soft">numbers as in</span>
        <select v-model="form.numbers" class="field" @change="readNumbers(form.numbers)">
          <option v-for="each in FORMS" :key="each.value" :value="each.value">{{ each.title }}</option>
        </select>
      </label>
      <label
        ><span class="soft">blank where it says</span>
        <input
          v-model="form.blanks"
          class="field"
          placeholder="n/a, -"
          @change="
            read({
              blanks: form.blanks
                .split(',')
                .map((each) => each.trim())
                .filter(Boolean),
            })
          "
        />
      </label>
    </template>
    <OfferList
      v-if="offers.length"
      :offers="offers"
      title="Seen in the data"
      @take="(offer) => shaping.act(offer.gesture)"
    />
    <template v-if="measures.length">
      <h3>Measures of it</h3>
      <p>{{ measures.map((each) => each.caption).join(', ') }}</p>
    </template>
    <template v-if="dimensions.length">
      <h3>Dimensions of it</h3>
      <p>{{ dimensions.map((each) => each.caption).join(', ') }}</p>
    </template>
    <LeaveOut
      words="Leave the table out…"
      goes="Its measures, its dimensions and what ties it go with it. Its file stays."
      @leave="leaveOut"
    />
  </aside>
</template>

<style scoped src="../fields.css" />
<style scoped src="../sheet.css" />
