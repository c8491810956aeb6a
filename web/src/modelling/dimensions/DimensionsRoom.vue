<script setup lang="ts">
// The dimensions: what they are called, what tells their members apart, and the ways down; beside it, how one would open.
import { computed, ref, watch } from 'vue'
import type { ModelDimension, ModelGesture } from '@/api/types'
import AttributeList from './AttributeList.vue'
import WayList from './WayList.vue'
import OfferList from '../sheets/OfferList.vue'
import MemberTicks from '../rights/MemberTicks.vue'
import TrialTable from '../sheets/TrialTable.vue'
import LeaveOut from '../LeaveOut.vue'
import { useShaping } from '../shaping'
import { nameOf, tableCaption } from '../words'

const shaping = useShaping()
const dimensions = computed(() => shaping.model?.dimensions ?? [])
const wanted = ref('')
const own = computed<ModelDimension | undefined>(() => {
  const chosen = shaping.chosen
  const name = chosen?.kind === 'dimension' ? chosen.name : wanted.value
  return dimensions.value.find((each) => each.name === name) ?? dimensions.value[0]
})
const way = ref('')
const hierarchy = computed(
  () => own.value?.hierarchies.find((each) => each.name === way.value)?.name ?? own.value?.hierarchies[0]?.name ?? '',
)
const measure = ref('')
const measures = computed(() =>
  (shaping.model?.measures ?? []).filter((each) => !['ratio', 'formula'].includes(each.aggregate)),
)
/** The measure beside the members: the chosen one, or the first of a table that the dimension is tied to. */
const beside = computed(() => {
  if (measures.value.some((each) => each.name === measure.value)) return measure.value
  const tied = new Set([
    own.value?.table,
    ...(shaping.model?.relationships ?? [])
      .filter((each) => each.to_table === own.value?.table)
      .map((each) => each.from_table),
  ])
  return (measures.value.find((each) => tied.has(each.table)) ?? measures.value[0])?.name ?? null
})
const offers = computed(() =>
  (shaping.bench?.offers ?? []).filter(
    (each) => each.gesture.kind === 'put_dimension' || each.about.split('.')[0] === own.value?.table,
  ),
)
/** Tables of which a dimension can be made. */
const free = computed(() =>
  Object.keys(shaping.model?.tables ?? {}).filter((each) => !shaping.model?.tables[each]?.calendar),
)
/** The members that a new analysis keeps, while they are being chosen. */
const beginning = ref<ModelDimension['default']>([])
const isChoosing = ref(false)
const form = ref({ caption: '', all: '', without: '', description: '', synonyms: '' })
watch(
  own,
  (now) => {
    isChoosing.value = false
    form.value = {
      caption: now?.caption ?? '',
      all: now?.all ?? '',
      without: now?.without ?? '',
      description: now?.description ?? '',
      synonyms: now?.synonyms.join(', ') ?? '',
    }
  },
  { immediate: true },
)

function choose(name: string): void {
  wanted.value = name
  shaping.choose({ kind: 'dimension', name })
}

function describe(said: Omit<Extract<ModelGesture, { kind: 'describe_dimension' }>, 'kind' | 'name'>): void {
  if (own.value) void shaping.act({ kind: 'describe_dimension', name: own.value.name, ...said })
}

function chooseBeginning(): void {
  beginning.value = [...(own.value?.default ?? [])]
  isChoosing.value = true
}

function begin(): void {
  isChoosing.value = false
  describe({ default: beginning.value })
}

async function leaveOut(): Promise<void> {
  if (own.value) await shaping.act({ kind: 'leave_out_dimension', name: own.value.name })
}

async function place(by: number): Promise<void> {
  if (!own.value) return
  const at = dimensions.value.indexOf(own.value)
  const before = dimensions.value[by < 0 ? at - 1 : at + 2]
  await shaping.act({ kind: 'place_dimension', name: own.value.name, before: before?.name ?? null })
}

async function make(table: string): Promise<void> {
  const offer = (shaping.bench?.offers ?? []).find(
    (each) => each.gesture.kind === 'put_dimension' && each.gesture.dimension.table === table,
  )
  const pointed = (shaping.model?.relationships ?? []).find((each) => each.to_table === table)
  const column =
    pointed?.to_column ??
    shaping.tableLook(table)?.columns.find((each) => each.profile?.kind === 'text')?.name ??
    shaping.tableLook(table)?.columns[0]?.name
  if (!column) return
  const names = dimensions.value.map((each) => each.name)
  const name = nameOf(pointed ? table : column, names, 'dimension')
  const captions = dimensions.value.map((each) => each.caption)
  let caption = tableCaption(pointed ? table : column)
  for (let number = 2; captions.includes(caption); number += 1)
    caption = `${tableCaption(pointed ? table : column)} (${number})`
  const level = nameOf(column, [], 'level')
  const made: ModelGesture = offer?.gesture ?? {
    kind: 'put_dimension',
    dimension: {
      name,
      caption,
      table,
      key: pointed?.to_column ?? null,
      attributes: [{ name: level, caption, key: column }],
      hierarchies: [{ name: level, levels: [level], sets: [], blanks: 'show' }],
      alternatives: false,
      default: [],
      description: '',
      synonyms: [],
    },
  }
  if ((await shaping.act(made)) && made.kind === 'put_dimension') choose(made.dimension.name)
}
</script>

<template>
  <div class="room">
    <nav class="list" aria-label="Dimensions">
      <ul>
        <li v-for="each in dimensions" :key="each.name">
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
      <v-menu location="bottom start">
        <template #activator="{ props: opener }"
          ><button v-bind="opener" type="button" class="plain-button new">Make another…</button></template
        >
        <v-list class="slip-list" role="menu">
          <v-list-item
            v-for="each in free"
            :key="each"
            role="menuitem"
            :title="`of ${tableCaption(each)}`"
            @click="make(each)"
          />
        </v-list>
      </v-menu>
    </nav>
    <section v-if="own" class="form" :aria-label="`Dimension ${own.caption}`">
      <div class="row">
        <h2>{{ own.caption }}</h2>
        <span class="soft"
          >of {{ tableCaption(own.table) }}<template v-if="own.key">, by {{ own.key }}</template></span
        >
      </div>
      <label
        ><span class="soft">is called</span
        ><input v-model="form.caption" class="field" @change="describe({ caption: form.caption.trim() })"
      /></label>
      <h3>Told apart by</h3>
      <AttributeList :dimension="own" />
      <h3>Ways down</h3>
      <WayList :dimension="own" :shown="hierarchy" @show="way = $event" />
      <h3>What an analysis begins with</h3>
      <div v-if="isChoosing" class="beginning">
        <MemberTicks v-model="beginning" :dimension="own.name" :hierarchy="own.hierarchies[0]?.name ?? ''" />
        <div class="row">
          <button type="button" class="plain-button go" @click="begin">
            {{ beginning.length ? 'Begin with these' : 'Begin with all' }}
          </button>
          <button type="button" class="plain-button not" @click="isChoosing = false">leave it</button>
        </div>
      </div>
      <div v-else class="row">
        <span>{{
          own.default.length ? own.default.map((path) => path.at(-1) ?? 'blank').join(', ') : 'all members'
        }}</span>
        <button type="button" class="plain-button go" @click="chooseBeginning">change</button>
      </div>
      <h3>Words</h3>
      <label
        ><span class="soft">all of them together</span
        ><input
          v-model="form.all"
          class="field"
          :placeholder="`All of ${own.caption}`"
          @change="describe({ all: form.all.trim() })"
      /></label>
      <label
        ><span class="soft">what belongs to none</span
        ><input
          v-model="form.without"
          class="field"
          :placeholder="`without a ${own.caption.toLowerCase()}`"
          @change="describe({ without: form.without.trim() })"
      /></label>
      <label
        ><span class="soft">also found as</span
        ><input
          v-model="form.synonyms"
          class="field"
          placeholder="route, service"
          @change="
            describe({
              synonyms: form.synonyms
                .split(',')
                .map((each) => each.trim())
                .filter(Boolean),
            })
          "
      /></label>
      <label
        ><span class="soft">described as</span
        ><textarea
          v-model="form.description"
          class="field"
          rows="2"
          @change="describe({ description: form.description.trim() })"
        />
      </label>
      <label class="tick"
        ><input
          type="checkbox"
          :checked="own.alternatives"
          @change="describe({ alternatives: ($event.target as HTMLInputElement).checked })"
        /><span>its members are alternatives, such as actual and plan: they are never added up</span></label
      >
      <div class="row">
        <button v-if="dimensions[0] !== own" type="button" class="plain-button not" @click="place(-1)">
          Further up
        </button>
        <button v-if="dimensions.at(-1) !== own" type="button" class="plain-button not" @click="place(1)">
          Further down
        </button>
        <LeaveOut words="Leave it out…" goes="Filters and lists that name it go with it." @leave="leaveOut" />
      </div>
    </section>
    <aside class="side" aria-label="How it would open">
      <template v-if="own">
        <div class="row"><h2>How it would open</h2></div>
        <label class="beside"
          ><span class="soft">beside it</span>
          <select
            class="field"
            :value="beside"
            aria-label="The measure beside it"
            @change="measure = ($event.target as HTMLSelectElement).value"
          >
            <option v-for="each in measures" :key="each.name" :value="each.name">{{ each.caption }}</option>
          </select>
        </label>
        <TrialTable :key="`${own.name}/${hierarchy}`" :dimension="own.name" :hierarchy="hierarchy" :measure="beside" />
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
  grid-template-columns: 70px minmax(0, 1fr);
  padding: 4px 0 8px;
}

.beginning {
  padding: 8px;
  background: rgb(var(--v-theme-background));
  border: 1px solid rgb(var(--v-theme-rule));
}

.offers {
  padding-top: 16px;
}
</style>
