<script setup lang="ts">
// What the data speaks for and the model does not have, and what was taken to be so: taken or refused one by one.
import { computed } from 'vue'
import type { ModelOffer } from '@/api/types'
import OfferList from './OfferList.vue'
import { useShaping } from '../shaping'

const shaping = useShaping()
const offers = computed(() => shaping.bench?.offers ?? [])
const assumed = computed(() => shaping.model?.assumed ?? [])
/** Ties that miss something, and columns that cannot be read. */
const wrong = computed(() => {
  const ties = (shaping.bench?.ties ?? []).filter((each) => each.unknown || each.repeated.length || each.trouble)
  const columns = (shaping.bench?.tables ?? []).flatMap((table) => [
    ...(table.trouble ? [{ table: table.name, column: '', says: table.trouble }] : []),
    ...table.columns
      .filter((each) => each.trouble)
      .map((each) => ({ table: table.name, column: each.name, says: each.trouble })),
  ])
  return { ties, columns }
})
const isWell = computed(
  () =>
    shaping.bench &&
    !wrong.value.ties.length &&
    !wrong.value.columns.length &&
    !offers.value.length &&
    !assumed.value.length,
)

function look(about: string): void {
  const [table = '', column = ''] = about.split(/\.(.*)/s)
  shaping.choose(column ? { kind: 'column', table, column } : { kind: 'table', table })
}

function take(offer: ModelOffer): void {
  void shaping.act(offer.gesture)
}
</script>

<template>
  <aside aria-label="What was noticed">
    <template v-if="wrong.columns.length || wrong.ties.length">
      <h2>Does not fit</h2>
      <div v-for="each in wrong.columns" :key="`${each.table}.${each.column}`">
        <button
          type="button"
          class="plain-button name"
          @click="
            shaping.choose(
              each.column
                ? { kind: 'column', table: each.table, column: each.column }
                : { kind: 'table', table: each.table },
            )
          "
        >
          {{ each.table }}<template v-if="each.column">.{{ each.column }}</template>
        </button>
        <p class="soft small">{{ each.says }}</p>
      </div>
      <div v-for="each in wrong.ties" :key="`${each.from_table}/${each.role}`">
        <button
          type="button"
          class="plain-button name"
          @click="shaping.choose({ kind: 'tie', table: each.from_table, role: each.role })"
        >
          {{ each.from_table }} <i class="soft">by</i> {{ each.role }}
        </button>
        <p class="soft small">
          <template v-if="each.trouble">{{ each.trouble }}</template>
          <template v-else-if="each.repeated.length"
            >{{ each.repeated.join(', ') }} stand in several rows there.</template
          >
          <template v-else
            >{{ each.unknown.toLocaleString('en-GB') }} of {{ each.records.toLocaleString('en-GB') }} records name what
            is not there: {{ each.examples.join(', ') }}.</template
          >
        </p>
      </div>
    </template>
    <OfferList v-if="offers.length" :offers="offers" title="Seen in the data" @take="take" />
    <button v-if="shaping.bench?.refused" type="button" class="plain-button not" @click="shaping.refuse(null)">
      Offer again what was refused ({{ shaping.bench.refused }})
    </button>
    <template v-if="assumed.length">
      <div class="row head">
        <h2>Taken to be so</h2>
        <button
          v-if="assumed.length > 1"
          type="button"
          class="plain-button go"
          @click="shaping.act({ kind: 'confirm' })"
        >
          All of it is so
        </button>
      </div>
      <div v-for="each in assumed" :key="each.about + each.says" class="assumed" :class="{ unsure: each.is_unsure }">
        <p class="says">{{ each.says }}</p>
        <p v-if="each.because" class="soft small">
          {{ each.because }}<template v-if="each.is_unsure">; something else may be meant</template>
        </p>
        <div class="row">
          <button
            type="button"
            class="plain-button go"
            @click="shaping.act({ kind: 'confirm', about: each.about, says: each.says })"
          >
            That is so
          </button>
          <button type="button" class="plain-button not" @click="look(each.about)">Look at it</button>
        </div>
      </div>
    </template>
    <template v-if="isWell">
      <h2>Nothing to be noticed</h2>
      <p class="soft">
        Every tie finds what it points at, every column fits, and nothing else is seen in the data. Choose a table, a
        column or a line on the plan to look at it.
      </p>
    </template>
    <p v-if="!shaping.bench && !shaping.benchTrouble" class="soft" role="status">The tables are being looked at.</p>
  </aside>
</template>

<style scoped src="../fields.css" />
<style scoped src="../sheet.css" />
<style scoped>
.name {
  font-weight: 600;
  border-bottom: 1px solid rgb(var(--v-theme-rule));
}

.says {
  overflow-wrap: anywhere;
}

.small {
  overflow-wrap: anywhere;
  font-size: 12px;
  line-height: 17px;
}

.head {
  justify-content: space-between;
}

.assumed {
  padding-bottom: 8px;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.unsure {
  padding-left: 8px;
  border-left: 2px solid rgb(var(--v-theme-saffron));
}
</style>
