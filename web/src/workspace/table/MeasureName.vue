<script setup lang="ts">
// A measure's name above or beside its numbers. Where there is little room the name is cut, and never what was done to
// the numbers.
import { computed } from 'vue'
import type { ShownMeasure } from '@/api/types'
import { doneTo } from './format'

const props = defineProps<{ measure: ShownMeasure }>()
const done = computed(() => doneTo(props.measure))
</script>

<template>
  <span class="measure-name"
    ><span class="own">{{ measure.heading }}</span
    ><span v-if="done" class="done">, {{ done }}</span></span
  >
</template>

<style scoped>
.measure-name {
  display: inline-flex;
  max-width: 100%;
  overflow: hidden;
  vertical-align: top;
}

.own {
  min-width: 12px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.done {
  flex: none;
  white-space: pre;
}
</style>
