<script setup lang="ts">
// Anything that can be picked up: dragged, or opened as a menu by click, by key and by the second button.
import { ref } from 'vue'
import type { Thing } from '@/api/types'
import { useDraggable } from './dragging'
import { useMaking } from './making/making'
import { useThingMenu } from './thingMenu'

const props = defineProps<{
  thing: Thing
  drag?: Thing
  label?: string
  disabled?: boolean
  clickActs?: boolean
  inGrid?: boolean
}>()
const emit = defineEmits<{ act: []; pick: [event: MouseEvent] }>()
const element = ref<HTMLElement | null>(null)
const menu = useThingMenu()
const making = useMaking()
useDraggable(element, () => (props.disabled ? null : (props.drag ?? props.thing)))

function open(event: MouseEvent | KeyboardEvent): void {
  if (props.disabled || !element.value) return
  event.preventDefault()
  void menu.open(props.thing, element.value)
}

function click(event: MouseEvent): void {
  if (props.disabled) return
  // Several headers are picked with the keys that every platform has for it.
  if (props.inGrid && (event.shiftKey || event.ctrlKey || event.metaKey)) {
    emit('pick', event)
    return
  }
  // While a formula is written, what is pointed at goes into it.
  if (making.take(props.thing)) return
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
    :tabindex="inGrid ? -1 : undefined"
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
