<script setup lang="ts">
import { mdiDotsHorizontal, mdiMenuDown, mdiMenuRight } from '@mdi/js'
import { computed, ref } from 'vue'
import type { CatalogueHierarchy } from '@/api/types'
import DragThing from '../DragThing.vue'
import LevelDots from '../LevelDots.vue'
import { useWorkspace } from '../store'
import { useThingMenu } from '../thingMenu'
import { dimensionThing } from '../things'

const props = defineProps<{
  dimension: string
  hierarchy: CatalogueHierarchy
  caption: string
  description: string
  reason?: string
  unfolded: boolean
  inner?: boolean
  /** Whether it is what Enter puts in. */
  best?: boolean
}>()
const workspace = useWorkspace()
const menu = useThingMenu()
const row = ref<HTMLElement | null>(null)
const thing = computed(() => dimensionThing(props.dimension, props.hierarchy.name))
const isUnfolded = ref(false)
const hasLevels = computed(() => props.hierarchy.levels.length > 1)
const showsLevels = computed(() => hasLevels.value && (isUnfolded.value || props.unfolded))
const foldIcon = computed(() => (showsLevels.value ? mdiMenuDown : mdiMenuRight))
const phrase = computed(() =>
  workspace.shown?.sentence.find(
    (each) =>
      each.kind === 'dimension' && each.dimension === props.dimension && each.hierarchy === props.hierarchy.name,
  ),
)
const dotsShown = computed(() => phrase.value?.levels_shown ?? 0)

/** A click puts it where it fits best; once it is there, it shows all that can be done with it. */
function put(level: string | null): void {
  if (level === null && phrase.value) open()
  else
    void workspace.act({
      kind: 'put_dimension',
      dimension: props.dimension,
      hierarchy: props.hierarchy.name,
      level,
      axis: null,
    })
}

function open(): void {
  if (row.value) void menu.open(thing.value, row.value)
}
</script>

<template>
  <div
    ref="row"
    class="entry"
    :class="{ placed: phrase, off: reason, inner, top: !inner, best }"
    :title="reason ?? description"
  >
    <button
      v-if="hasLevels"
      class="plain-button fold"
      tabindex="-1"
      :aria-label="`Levels of ${caption}`"
      :aria-expanded="showsLevels"
      @click="isUnfolded = !isUnfolded"
    >
      <v-icon :icon="foldIcon" size="14" />
    </button>
    <DragThing
      class="grow"
      data-entry="thing"
      tabindex="-1"
      :thing="thing"
      :disabled="!!reason"
      click-acts
      @act="put(null)"
    >
      <span class="caption">{{ caption }}</span><LevelDots :shown="dotsShown" :all="hierarchy.levels.length" />
    </DragThing>
    <button
      v-if="!reason"
      class="plain-button more"
      tabindex="-1"
      :aria-label="`What can be done with ${caption}`"
      @click="open"
    >
      <v-icon :icon="mdiDotsHorizontal" size="14" />
    </button>
  </div>
  <template v-if="showsLevels">
    <div v-for="level in hierarchy.levels" :key="level.name" class="entry level" :class="{ inner, off: reason }">
      <DragThing
        class="grow"
        data-entry="thing"
        tabindex="-1"
        :thing="dimensionThing(dimension, hierarchy.name, level.name)"
        :disabled="!!reason"
        click-acts
        @act="put(level.name)"
      >
        <span class="caption soft">{{ level.caption }}</span>
      </DragThing>
    </div>
  </template>
</template>

<style scoped src="./entry.css" />
