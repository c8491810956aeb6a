<script setup lang="ts">
// Anything that can be picked up: dragged, or opened as a menu by click, by key and by the second button.
import { ref } from 'vue'
import type { Thing } from '@/api/types'
import { useDraggable } from './dragging'
import { useThingMenu } from './thingMenu'

const props = defineProps<{ thing: Thing; drag?: Thing; label?: string; disabled?: boolean; clickActs?: boolean }>()
const emit = defineEmits<{ act: [] }>()
const element = ref<HTMLElement | null>(null)
const menu = useThingMenu()
useDraggable(element, () => (props.disabled ? null : (props.drag ?? props.thing)))

function open(event: MouseEvent | KeyboardEvent): void {
  if (props.disabled || !element.value) return
  event.preventDefault()
  void menu.open(props.thing, element.value)
}

function click(event: MouseEvent): void {
  if (props.disabled) return
  if (props.clickActs) emit('act')
  else open(event)
}
</script>

<template>
  <button
    ref="element"
    type="button"
    class="plain-button thing"
    :aria-label="label"
    :aria-disabled="disabled || undefined"
    aria-haspopup="menu"
    @click="click"
    @contextmenu="open"
    @keydown.shift.f10="open"
  >
    <slot />
  </button>
</template>

<style scoped>
.thing {
  cursor: grab;
}

.thing[aria-disabled='true'] {
  cursor: default;
}
</style>
