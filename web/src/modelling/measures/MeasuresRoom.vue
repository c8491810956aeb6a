<script setup lang="ts">
// The measures: what of which records is taken together, and how; beside it, what that comes to by a dimension.
import { computed, ref, watch } from 'vue'
import MeasureForm from './MeasureForm.vue'
import OfferList from '../sheets/OfferList.vue'
import TrialTable from '../sheets/TrialTable.vue'
import { useShaping } from '../shaping'
import { factsOf, nameOf, tableCaption } from '../words'

const shaping = useShaping()
const measures = computed(() => shaping.model?.measures ?? [])
const folders = computed(() => {
  const found = new Map<string, typeof measures.value>()
  for (const each of measures.value) found.set(each.folder, [...(found.get(each.folder) ?? []), each])
  return [...found]
})
const wanted = ref('')
const own = computed(() => {
  const chosen = shaping.chosen
  const name = chosen?.kind === 'measure' ? chosen.name : wanted.value
  return measures.value.find((each) => each.name === name) ?? measures.value[0]
})
const seenBy = ref('')
const dimensions = computed(() => (shaping.model?.dimensions ?? []).filter((each) => each.hierarchies.length))
const dimension = computed(() => {
  if (dimensions.value.some((each) => each.name === seenBy.value)) return seenBy.value
  const tied = new Set([
    own.value?.table,
    ...(shaping.model?.relationships ?? [])
      .filter((each) => each.from_table === own.value?.table)
      .map((each) => each.to_table),
  ])
  return (dimensions.value.find((each) => tied.has(each.table)) ?? dimensions.value[0])?.name ?? ''
})
const offers = computed(() => (shaping.bench?.offers ?? []).filter((each) => each.gesture.kind === 'put_measure'))
/** Tables whose records a new measure may be of: those that are counted already first. */
const tables = computed(() => {
  const facts = shaping.model ? factsOf(shaping.model) : []
  const others = Object.keys(shaping.model?.tables ?? {}).filter(
    (each) => !facts.includes(each) && !shaping.model?.tables[each]?.calendar,
  )
  return [...facts, ...others]
})

watch(() => shaping.turn, shaping.tell, { immediate: true })

function choose(name: string): void {
  wanted.value = name
  shaping.choose({ kind: 'measure', name })
}

async function make(table: string): Promise<void> {
  const captions = measures.value.map((each) => each.caption)
  let caption = `${tableCaption(table)} counted`
  for (let number = 2; captions.includes(caption); number += 1) caption = `${tableCaption(table)} counted (${number})`
  const like = measures.value.find((each) => each.table === table && !['ratio', 'formula'].includes(each.aggregate))
  const measure = {
    name: nameOf(
      caption,
      measures.value.map((each) => each.name),
      'measure',
    ),
    caption,
    table,
    aggregate: 'count' as const,
    format: '#,##0',
    over_time: 'last' as const,
    where: [],
    unit: '',
    folder: like?.folder ?? tableCaption(table),
    description: '',
    synonyms: [],
    roles: { ...(like?.roles ?? {}) },
  }
  if (await shaping.act({ kind: 'put_measure', measure })) choose(measure.name)
}
</script>

<template>
  <div class="room">
    <nav class="list" aria-label="Measures">
      <template v-for="[folder, own_] in folders" :key="folder">
        <div v-if="folder" class="small-caps">{{ folder }}</div>
        <ul>
          <li v-for="each in own_" :key="each.name">
            <button
              type="button"
              class="plain-button item"
              :class="{ here: each === own }"
              :aria-current="each === own ? 'true' : undefined"
              @click="choose(each.name)"
            >
              {{ each.caption }}
            </button>
          </li>
        </ul>
      </template>
      <v-menu location="bottom start">
        <template #activator="{ props: opener }"
          ><button v-bind="opener" type="button" class="plain-button new">Make another…</button></template
        >
        <v-list class="slip-list" role="menu">
          <v-list-item
            v-for="each in tables"
            :key="each"
            role="menuitem"
            :title="`of ${tableCaption(each)}`"
            @click="make(each)"
          />
        </v-list>
      </v-menu>
    </nav>
    <MeasureForm v-if="own" :key="own.name" class="form" :measure="own" />
    <p v-else class="form soft">Nothing is counted yet. Make a measure of a table.</p>
    <aside class="side" aria-label="What it comes to">
      <template v-if="own">
        <div class="row"><h2>What it comes to</h2></div>
        <label class="beside"
          ><span class="soft">by</span>
          <select
            class="field"
            :value="dimension"
            aria-label="The dimension that it is seen by"
            @change="seenBy = ($event.target as HTMLSelectElement).value"
          >
            <option v-for="each in dimensions" :key="each.name" :value="each.name">{{ each.caption }}</option>
          </select>
        </label>
        <TrialTable v-if="dimension" :key="`${own.name}/${dimension}`" :dimension="dimension" :measure="own.name" />
      </template>
      <OfferList
        v-if="offers.length"
        class="offers"
        :offers="offers"
        title="Seen in the data"
        @take="(offer) => shaping.act(offer.gesture)"
      />
    </aside>
  </div>
</template>

<style scoped src="../fields.css" />
<style scoped src="../room.css" />
<style scoped>
.beside {
  grid-template-columns: 30px minmax(0, 1fr);
  padding: 4px 0 8px;
}

.offers {
  padding-top: 16px;
}
</style>
