<script setup lang="ts">
// A joint member that was made here, or taken in: what it joins, and all that can be done with it.
import { mdiDotsHorizontal } from '@mdi/js'
import { computed, ref } from 'vue'
import type { ShownJoint } from '@/api/types'
import { useThingMenu } from '../thingMenu'
import { pathThing } from '../things'

const props = defineProps<{ joint: ShownJoint }>()
const menu = useThingMenu()
const row = ref<HTMLElement | null>(null)
const thing = computed(() => pathThing(props.joint.joint.dimension, props.joint.joint.hierarchy, props.joint.path))
const lost = computed(() => props.joint.joins.length - props.joint.there)
const title = computed(() => {
  const joins = `${props.joint.joint.caption} ${props.joint.says}`
  return lost.value ? `${joins}\n${lost.value} of these are not in the data any more` : joins
})

function open(): void {
  if (row.value) void menu.open(thing.value, row.value)
}
</script>

<template>
  <div ref="row" class="entry" :title="title">
    <button type="button" class="plain-button grow" data-entry="thing" tabindex="-1" @click="open">
      <span class="caption" :class="{ made: !joint.joint.of_model }">{{ joint.joint.caption }}</span><span
        class="unit"
        >{{
          lost
            ? `${joint.there} of ${joint.joins.length} there`
            : joint.joint.how !== 'together'
              ? joint.joint.how
              : `${joint.joins.length} joined`
        }}</span
      >
    </button>
    <button
      class="plain-button more"
      tabindex="-1"
      :aria-label="`What can be done with ${joint.joint.caption}`"
      @click="open"
    >
      <v-icon :icon="mdiDotsHorizontal" size="14" />
    </button>
  </div>
</template>

<style scoped src="./entry.css" />
