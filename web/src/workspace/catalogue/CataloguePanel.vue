<script setup lang="ts">
import { mdiChevronDoubleLeft, mdiFormatListBulleted, mdiPlus } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import type { CatalogueDimension as CatalogueEntry } from '@/api/types'
import { later } from '@/shell/later'
import { useDragging } from '../dragging'
import { useMaking } from '../making/making'
import { useWorkspace } from '../store'
import CatalogueDimension from './CatalogueDimension.vue'
import CatalogueFilter from './CatalogueFilter.vue'
import CatalogueFold from './CatalogueFold.vue'
import CatalogueJoint from './CatalogueJoint.vue'
import CatalogueList from './CatalogueList.vue'
import CatalogueMeasure from './CatalogueMeasure.vue'
import CatalogueModelJoint from './CatalogueModelJoint.vue'
import CatalogueWay from './CatalogueWay.vue'
import { useFolds } from './folds'
import { nearestOf, searchCatalogue, withLayouts } from './search'
import { useRoving } from './useRoving'

const MadeSheet = later(() => import('../making/MadeSheet.vue'))
const emit = defineEmits<{ fold: [] }>()
const workspace = useWorkspace()
const dragging = useDragging()
const making = useMaking()
const words = ref('')
const isListed = ref(false)
const list = ref<HTMLElement | null>(null)
const { isInside, enter, onFocusin, onFocusout, onKeydown } = useRoving(list)
const folds = useFolds(computed(() => workspace.draft?.model ?? ''))
const isSearching = computed(() => words.value.trim() !== '')
const found = computed(() =>
  searchCatalogue(
    withLayouts(workspace.catalogue, workspace.shown?.layouts ?? []),
    workspace.document?.ways_down ?? [],
    workspace.shown?.made ?? [],
    workspace.shown?.joints ?? [],
    workspace.shown?.lists ?? [],
    words.value,
  ),
)
const placedMeasures = computed(() => new Set(workspace.document?.question?.measures?.map((each) => each.measure)))
const notes = computed(() => workspace.catalogue?.notes ?? [])
const reasons = computed(() => workspace.shown?.unavailable ?? {})
const filters = computed(() => workspace.document?.question?.filters ?? [])

/** The folders with a measure in use stand open; without any those that were used lately, or the first to begin with. */
const folders = computed(() => workspace.catalogue?.folders ?? [])
const usedFolders = computed(() =>
  folders.value
    .filter((folder) => folder.measures.some((each) => placedMeasures.value.has(each.name)))
    .map((each) => each.caption),
)
watch(usedFolders, folds.use, { immediate: true })
const openFolders = computed(() => {
  const all = folders.value.map((each) => each.caption)
  const lately = all.filter((each) => folds.lately.value.includes(each))
  return new Set([usedFolders.value, lately, all.slice(0, 1)].find((each) => each.length) ?? [])
})

/** A dimension by none of whose hierarchies the measures can be told stands with the others at the end. */
function isOut(dimension: CatalogueEntry): boolean {
  return dimension.hierarchies.every((each) => reasons.value[`${dimension.name}/${each.name}`])
}
const dimensions = computed(() => found.value.dimensions.filter((each) => !isOut(each)))
const outside = computed(() => found.value.dimensions.filter(isOut))

/** What Enter puts in: what is called most like the words, of all that can be put in. */
const best = computed(() =>
  isSearching.value ? nearestOf({ ...found.value, dimensions: dimensions.value }, words.value) : null,
)

/** Further sections, each under a line of its own: unfolded while something of it is in use. */
const isListUsed = computed(() => filters.value.some((each) => each.kind === 'members' && each.list))
const isReadyUsed = computed(() => filters.value.some((each) => each.kind === 'ready'))

function isOpen(key: string, otherwise: boolean): boolean {
  return isSearching.value || folds.isOpen(key, otherwise)
}

function turn(key: string, otherwise: boolean): void {
  if (!isSearching.value) folds.turn(key, folds.isOpen(key, otherwise))
}

/** Puts in what is marked; what is written next takes the place of the words. */
function putBest(event: KeyboardEvent): void {
  list.value?.querySelector<HTMLElement>('.best [data-entry]')?.click()
  if (event.target instanceof HTMLInputElement) event.target.select()
}
</script>

<template>
  <nav class="catalogue" aria-label="Catalogue">
    <div class="head">
      <input
        v-model="words"
        class="search search-field"
        type="search"
        placeholder="Find by name"
        aria-label="Find a measure or dimension"
        @keydown.enter.prevent="putBest"
        @keydown.down.prevent="enter"
      />
      <v-btn
        :icon="mdiPlus"
        size="24"
        aria-label="Make a measure"
        title="Make a measure of your own"
        @click="making.begin(null)"
      />
      <v-btn
        :icon="mdiFormatListBulleted"
        size="24"
        aria-label="All that is made"
        title="All that is made: what it is, and where it is used"
        @click="isListed = true"
      />
      <v-btn
        :icon="mdiChevronDoubleLeft"
        size="24"
        aria-label="Fold the catalogue"
        title="Fold the catalogue"
        @click="emit('fold')"
      />
    </div>
    <div
      ref="list"
      class="lists"
      role="group"
      aria-label="What can be put in"
      :tabindex="isInside ? -1 : 0"
      @focusin="onFocusin"
      @focusout="onFocusout"
      @keydown="onKeydown"
    >
      <h2 v-if="found.made.length || found.joints.length || found.folders.length" class="small-caps">Measures</h2>
      <CatalogueFold
        v-if="found.made.length || found.joints.length"
        caption="Made here"
        :count="found.made.length + found.joints.length"
        :open="isOpen('made', true)"
        @turn="turn('made', true)"
      >
        <CatalogueMeasure
          v-for="measure in found.made"
          :key="measure.name"
          :measure="measure"
          :placed="placedMeasures.has(measure.name)"
          is-made
          :best="best === `measure/${measure.name}`"
        />
        <CatalogueJoint v-for="joint in found.joints" :key="joint.joint.name" :joint="joint" />
      </CatalogueFold>
      <!-- Measures of no folder are listed as they are. -->
      <template v-for="folder in found.folders.filter((each) => !each.caption)" :key="folder.caption">
        <CatalogueMeasure
          v-for="measure in folder.measures"
          :key="measure.name"
          :measure="measure"
          :placed="placedMeasures.has(measure.name)"
          :best="best === `measure/${measure.name}`"
        />
      </template>
      <CatalogueFold
        v-for="folder in found.folders.filter((each) => each.caption)"
        :key="folder.caption"
        :caption="folder.caption"
        :count="folder.measures.length"
        :open="isOpen(`folder/${folder.caption}`, openFolders.has(folder.caption))"
        @turn="turn(`folder/${folder.caption}`, openFolders.has(folder.caption))"
      >
        <CatalogueMeasure
          v-for="measure in folder.measures"
          :key="measure.name"
          :measure="measure"
          :placed="placedMeasures.has(measure.name)"
          :best="best === `measure/${measure.name}`"
        />
      </CatalogueFold>
      <h2 v-if="found.dimensions.length" class="small-caps">Dimensions</h2>
      <CatalogueDimension
        v-for="dimension in dimensions"
        :key="dimension.name"
        :dimension="dimension"
        :reasons="reasons"
        :unfolded="isSearching"
        :folds="folds"
        :best="best === `dimension/${dimension.name}`"
      />
      <CatalogueFold
        v-if="outside.length"
        :caption="`${outside.length} out of reach`"
        title="The measures in the table cannot be told apart by these"
        :open="isOpen('outside', false)"
        @turn="turn('outside', false)"
      >
        <CatalogueDimension
          v-for="dimension in outside"
          :key="dimension.name"
          :dimension="dimension"
          :reasons="reasons"
          :unfolded="isSearching"
          :folds="folds"
        />
      </CatalogueFold>
      <CatalogueFold
        v-if="found.ways.length"
        caption="Ways down"
        :count="found.ways.length"
        :open="isOpen('ways', true)"
        @turn="turn('ways', true)"
      >
        <CatalogueWay v-for="way in found.ways" :key="way.caption" :caption="way.caption" :steps="way.steps.length" />
      </CatalogueFold>
      <CatalogueFold
        v-if="found.lists.length"
        caption="Lists"
        :count="found.lists.length"
        :open="isOpen('lists', isListUsed)"
        @turn="turn('lists', isListUsed)"
      >
        <CatalogueList v-for="each in found.lists" :key="`${each.of}/${each.name}`" :list="each" />
      </CatalogueFold>
      <CatalogueFold
        v-if="found.takenJoints.length + found.modelJoints.length"
        caption="Joint members"
        :count="found.takenJoints.length + found.modelJoints.length"
        :open="isOpen('joints', found.takenJoints.length > 0)"
        @turn="turn('joints', found.takenJoints.length > 0)"
      >
        <CatalogueJoint v-for="each in found.takenJoints" :key="each.joint.name" :joint="each" />
        <CatalogueModelJoint v-for="each in found.modelJoints" :key="each.name" :joint="each" />
      </CatalogueFold>
      <CatalogueFold
        v-if="found.filters.length"
        caption="Ready-made filters"
        :count="found.filters.length"
        :open="isOpen('filters', isReadyUsed)"
        @turn="turn('filters', isReadyUsed)"
      >
        <CatalogueFilter
          v-for="filter in found.filters"
          :key="filter.name"
          :filter="filter"
          :best="best === `filter/${filter.name}`"
        />
      </CatalogueFold>
      <CatalogueFold
        v-if="notes.length && !isSearching"
        caption="Noticed in the data"
        :count="notes.length"
        :open="isOpen('notes', false)"
        @turn="turn('notes', false)"
      >
        <p v-for="note in notes" :key="note" class="note soft">{{ note }}</p>
      </CatalogueFold>
      <router-link
        v-if="workspace.catalogue?.may_shape && !isSearching"
        class="shape"
        :to="{ name: 'model', params: { name: workspace.catalogue.name } }"
        title="Its tables, what ties them, dimensions, measures, rights"
        >The model…</router-link
      >
      <p v-if="found.isEmpty" class="soft nothing">Nothing is called “{{ words }}”.</p>
    </div>
    <MadeSheet v-if="isListed" @close="isListed = false" />
    <div v-if="dragging.away" class="away">{{ dragging.away.words }}: drop here</div>
  </nav>
</template>

<style scoped>
.shape {
  display: inline-block;
  margin: 10px 8px 4px;
  color: rgb(var(--v-theme-soft));
  text-decoration: none;
}

.shape:hover {
  text-decoration: underline;
}

.catalogue {
  position: relative;
  display: flex;
  flex-direction: column;
  width: var(--catalogue-width);
  min-height: 0;
  border-right: 1px solid rgb(var(--v-theme-rule));
}

.head {
  display: flex;
  gap: 2px;
  padding: 8px 4px 4px 10px;
}

.search {
  flex: 1;
  min-width: 0;
}

.lists {
  flex: 1;
  padding-bottom: 12px;
  overflow: auto;
}

h2 {
  margin: 8px 0 1px;
  padding: 0 14px;
}

.note {
  margin: 4px 0;
  padding: 0 14px 0 18px;
  font-size: 12px;
}

.nothing {
  padding: 8px 14px;
}

.away {
  position: absolute;
  inset: auto 8px 8px;
  padding: 10px 12px;
  text-align: center;
  background: rgb(var(--v-theme-saffron-tint));
  border: 1px dashed rgb(var(--v-theme-saffron));
}
</style>
