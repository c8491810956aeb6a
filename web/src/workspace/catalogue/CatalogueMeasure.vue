<script setup lang="ts">
import { mdiDotsHorizontal } from '@mdi/js'
import { computed, ref } from 'vue'
import type { CatalogueMeasure } from '@/api/types'
import DragThing from '../DragThing.vue'
import { useWorkspace } from '../store'
import { useThingMenu } from '../thingMenu'
import { measureThing } from '../things'

const props = defineProps<{ measure: CatalogueMeasure; placed: boolean; isMade?: boolean; best?: boolean }>()
const workspace = useWorkspace()
const menu = useThingMenu()
const row = ref<HTMLElement | null>(null)
const thing = computed(() => measureThing({ measure: props.measure.name }))

function put(): void {
  if (!props.placed) void workspace.act({ kind: 'put_measure', measure: props.measure.name })
  else if (row.value) void menu.open(thing.value, row.value)
}
</script>

<template>
  <div ref="row" class="entry" :class="{ placed, best }" :title="measure.description">
    <DragThing class="grow" data-entry="thing" tabindex="-1" :thing="thing" click-acts @act="put">
      <span class="caption" :class="{ made: isMade }">{{ measure.caption }}</span><span class="unit">{{
        measure.unit
      }}</span>
    </DragThing>
    <button
      class="plain-button more"
      tabindex="-1"
      :aria-label="`What can be done with ${measure.caption}`"
      @click="row && menu.open(thing, row)"
    >
      <v-icon :icon="mdiDotsHorizontal" size="14" />
    </button>
  </div>
</template>

<style scoped src="./entry.css" />
