<script setup lang="ts">
import { mdiChevronDoubleLeft, mdiFormatListBulleted, mdiPlus } from '@mdi/js'
import { computed, defineAsyncComponent, ref } from 'vue'
import { useDragging } from '../dragging'
import { useMaking } from '../making/making'
import { useWorkspace } from '../store'
import CatalogueDimension from './CatalogueDimension.vue'
import CatalogueFilter from './CatalogueFilter.vue'
import CatalogueJoint from './CatalogueJoint.vue'
import CatalogueList from './CatalogueList.vue'
import CatalogueMeasure from './CatalogueMeasure.vue'
import CatalogueWay from './CatalogueWay.vue'
import { searchCatalogue, withLayouts } from './search'

const MadeSheet = defineAsyncComponent(() => import('../making/MadeSheet.vue'))
const emit = defineEmits<{ fold: [] }>()
const workspace = useWorkspace()
const dragging = useDragging()
const making = useMaking()
const words = ref('')
const isListed = ref(false)
const found = computed(() => searchCatalogue(withLayouts(workspace.catalogue, workspace.shown?.layouts ?? []), workspace.document?.ways_down ?? [], workspace.shown?.made ?? [], workspace.shown?.joints ?? [], workspace.shown?.lists ?? [], words.value))
const placedMeasures = computed(() => new Set(workspace.document?.question?.measures?.map((each) => each.measure)))
const notes = computed(() => workspace.catalogue?.notes ?? [])
const reasons = computed(() => workspace.shown?.unavailable)
</script>

<template>
  <nav class="catalogue" aria-label="Catalogue">
    <div class="head">
      <input v-model="words" class="search search-field" type="search" placeholder="Find by name" aria-label="Find a measure or dimension" />
      <v-btn :icon="mdiPlus" size="24" aria-label="Make a measure" title="Make a measure of your own" @click="making.begin(null)" />
      <v-btn :icon="mdiFormatListBulleted" size="24" aria-label="All that is made" title="All that is made: what it is, and where it is used" @click="isListed = true" />
      <v-btn :icon="mdiChevronDoubleLeft" size="24" aria-label="Fold the catalogue" title="Fold the catalogue" @click="emit('fold')" />
    </div>
    <div class="lists">
      <template v-if="found.made.length || found.joints.length">
        <h2 class="small-caps">Made here</h2>
        <CatalogueMeasure v-for="measure in found.made" :key="measure.name" :measure="measure" :placed="placedMeasures.has(measure.name)" is-made />
        <CatalogueJoint v-for="joint in found.joints" :key="joint.joint.name" :joint="joint" />
      </template>
      <template v-for="folder in found.folders" :key="folder.caption">
        <h2 class="small-caps">{{ folder.caption }}</h2>
        <CatalogueMeasure v-for="measure in folder.measures" :key="measure.name" :measure="measure" :placed="placedMeasures.has(measure.name)" />
      </template>
      <h2 v-if="found.dimensions.length" class="small-caps">Dimensions</h2>
      <CatalogueDimension v-for="dimension in found.dimensions" :key="dimension.name" :dimension="dimension" :reasons="reasons ?? {}" :unfolded="words.trim() !== ''" />
      <template v-if="found.ways.length">
        <h2 class="small-caps">Ways down</h2>
        <CatalogueWay v-for="way in found.ways" :key="way.caption" :caption="way.caption" :steps="way.steps.length" />
      </template>
      <template v-if="found.lists.length">
        <h2 class="small-caps">Lists</h2>
        <CatalogueList v-for="list in found.lists" :key="`${list.of}/${list.name}`" :list="list" />
      </template>
      <template v-if="found.filters.length">
        <h2 class="small-caps">Ready-made filters</h2>
        <CatalogueFilter v-for="filter in found.filters" :key="filter.name" :filter="filter" />
      </template>
      <details v-if="notes.length && !words" class="notes soft">
        <summary>Noticed in the data</summary>
        <p v-for="note in notes" :key="note">{{ note }}</p>
      </details>
      <p v-if="found.isEmpty" class="soft nothing">Nothing is called “{{ words }}”.</p>
    </div>
    <MadeSheet v-if="isListed" @close="isListed = false" />
    <div v-if="dragging.away" class="away">{{ dragging.away.words }}: drop here</div>
  </nav>
</template>

<style scoped>
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

.notes {
  padding: 12px 14px 0;
  font-size: 12px;
}

.notes summary {
  cursor: pointer;
}

.notes p {
  margin: 4px 0;
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
