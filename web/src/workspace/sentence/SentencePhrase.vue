<script setup lang="ts">
import { computed } from 'vue'
import type { Phrase } from '@/api/types'
import DragThing from '../DragThing.vue'
import LevelDots from '../LevelDots.vue'
import { useWorkspace } from '../store'
import { useThingMenu } from '../thingMenu'
import { axisThing, dimensionThing, filterThing, measureThing, measuresThing, pathThing } from '../things'

const props = defineProps<{ phrase: Phrase; first: boolean }>()
const menu = useThingMenu()
const workspace = useWorkspace()
const isWaiting = computed(() => props.phrase.kind === 'waiting')
const thing = computed(() => {
  const { kind, measure, aggregate, percentile, view, dimension, hierarchy, axis, at, path } = props.phrase
  if (kind === 'layout') return measuresThing()
  if (kind === 'empty' && axis) return axisThing(axis)
  if ((kind === 'measure' || kind === 'made') && measure) return measureThing({ measure, aggregate, percentile, view })
  if (kind === 'joint' && dimension && hierarchy) return pathThing(dimension, hierarchy, path)
  if (kind === 'filter')
    return at === null || at === undefined
      ? null
      : { ...filterThing(at), dimension: dimension ?? null, hierarchy: hierarchy ?? null }
  if ((kind === 'limit' || kind === 'order') && dimension && hierarchy)
    return { ...dimensionThing(dimension, hierarchy), kind, level: props.phrase.level ?? null }
  return dimension && hierarchy ? dimensionThing(dimension, hierarchy) : null
})
const title = computed(() => {
  if (props.phrase.kind === 'filter' || props.phrase.kind === 'joint') return props.phrase.details.join('\n')
  // A measure that was made here says what it is.
  return workspace.shown?.made.find((each) => each.made.name === props.phrase.measure)?.aloud
})
const gap = computed(() => (props.first || /^[,;.]/.test(props.phrase.text) ? '' : ' '))
</script>

<template>
  <template v-if="gap">{{ gap }}</template>
  <DragThing
    v-if="thing"
    class="phrase"
    :class="phrase.kind"
    :thing="thing"
    :title="title"
    :data-phrase="phrase.kind"
    :click-acts="isWaiting"
    @act="menu.pick(thing)"
    ><span class="words">{{ phrase.text }}</span
    ><LevelDots v-if="phrase.levels_all" class="dots" :shown="phrase.levels_shown" :all="phrase.levels_all" /><span
      v-if="phrase.note"
      class="note"
      >{{ phrase.note }}</span
    ></DragThing
  >
  <span v-else class="joining">{{ phrase.text }}</span>
</template>

<style scoped>
.phrase {
  font: inherit;
  line-height: 25px;
  border-bottom: 1px solid rgb(var(--v-theme-rule));
}

.phrase:hover {
  border-color: rgb(var(--v-theme-secondary));
}

.measure .words {
  font-weight: 600;
}

.note {
  margin-left: 4px;
  font: 12px/16px var(--sans);
  color: rgb(var(--v-theme-soft));
}

.dots {
  margin: 0 1px 3px 6px;
}

.waiting {
  padding: 0 4px;
  border: 1px dashed rgb(var(--v-theme-rule));
}

.joining {
  font-style: italic;
  color: rgb(var(--v-theme-soft));
}
</style>
