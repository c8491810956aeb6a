<script setup lang="ts">
import { mdiMenuDown, mdiMenuRight } from '@mdi/js'
import { computed, ref } from 'vue'
import type { CatalogueHierarchy } from '@/api/types'
import DragThing from '../DragThing.vue'
import LevelDots from '../LevelDots.vue'
import { useWorkspace } from '../store'
import { dimensionThing } from '../things'

const props = defineProps<{
  dimension: string
  hierarchy: CatalogueHierarchy
  caption: string
  description: string
  reason?: string
  unfolded: boolean
  inner?: boolean
}>()
const workspace = useWorkspace()
const isUnfolded = ref(false)
const hasLevels = computed(() => props.hierarchy.levels.length > 1)
const showsLevels = computed(() => hasLevels.value && (isUnfolded.value || props.unfolded))
const foldIcon = computed(() => (showsLevels.value ? mdiMenuDown : mdiMenuRight))
const phrase = computed(() =>
  workspace.shown?.sentence.find(
    (each) => each.kind === 'dimension' && each.dimension === props.dimension && each.hierarchy === props.hierarchy.name,
  ),
)
const dotsShown = computed(() => phrase.value?.levels_shown ?? 0)
</script>

<template>
  <div class="entry" :class="{ placed: phrase, off: reason, inner }" :title="reason ?? description">
    <button v-if="hasLevels" class="plain-button fold" :aria-label="`Levels of ${caption}`" :aria-expanded="showsLevels" @click="isUnfolded = !isUnfolded">
      <v-icon :icon="foldIcon" size="14" />
    </button>
    <DragThing class="grow" :thing="dimensionThing(dimension, hierarchy.name)" :disabled="!!reason">
      <span class="caption">{{ caption }}</span><LevelDots :shown="dotsShown" :all="hierarchy.levels.length" />
    </DragThing>
  </div>
  <template v-if="showsLevels">
    <div v-for="level in hierarchy.levels" :key="level.name" class="entry level" :class="{ inner, off: reason }">
      <DragThing class="grow" :thing="dimensionThing(dimension, hierarchy.name, level.name)" :disabled="!!reason">
        <span class="caption soft">{{ level.caption }}</span>
      </DragThing>
    </div>
  </template>
</template>

<style scoped src="./entry.css" />
