<script setup lang="ts">
// A list of members: put in as a filter by a click and lifted by another, dragged to an axis, or opened as a menu.
import { mdiDotsHorizontal } from '@mdi/js'
import { computed, ref } from 'vue'
import type { ShownList } from '@/api/types'
import DragThing from '../DragThing.vue'
import { useWorkspace } from '../store'
import { useThingMenu } from '../thingMenu'
import { listThing } from '../things'

const props = defineProps<{ list: ShownList }>()
const workspace = useWorkspace()
const menu = useThingMenu()
const row = ref<HTMLElement | null>(null)
const isPlaced = computed(() =>
  (workspace.document?.question?.filters ?? []).some(
    (each) => each.kind === 'members' && each.list === props.list.name,
  ),
)
const title = computed(
  () =>
    `${isPlaced.value ? 'Lift' : 'Keep only'} ${props.list.caption}: ${props.list.says}${props.list.description ? `\n${props.list.description}` : ''}`,
)

function turn(): void {
  void workspace.act({ kind: 'filter_list', name: props.list.name, action: isPlaced.value ? null : 'keep' })
}

function open(): void {
  if (row.value) void menu.open(listThing(props.list.name), row.value)
}
</script>

<template>
  <div ref="row" class="entry" :class="{ placed: isPlaced }" :title="title">
    <DragThing class="grow" data-entry="thing" tabindex="-1" :thing="listThing(list.name)" click-acts @act="turn">
      <span class="caption" :class="{ made: list.of === 'analysis' }">{{ list.caption }}</span>
    </DragThing>
    <button class="plain-button more" tabindex="-1" :aria-label="`What can be done with ${list.caption}`" @click="open">
      <v-icon :icon="mdiDotsHorizontal" size="14" />
    </button>
  </div>
</template>

<style scoped src="./entry.css" />
