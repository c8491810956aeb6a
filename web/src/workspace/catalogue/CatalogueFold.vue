<script setup lang="ts">
// A line of the catalogue that others fold under.
import { mdiMenuDown, mdiMenuRight } from '@mdi/js'

defineProps<{ caption: string; count?: number; open: boolean; inner?: boolean; title?: string }>()
const emit = defineEmits<{ turn: [] }>()
</script>

<template>
  <button
    type="button"
    class="plain-button entry fold-line"
    :class="{ open, inner }"
    data-entry="fold"
    tabindex="-1"
    :aria-expanded="open"
    :title="title"
    @click="emit('turn')"
  >
    <v-icon class="mark" :icon="open ? mdiMenuDown : mdiMenuRight" size="14" />
    <span class="caption">{{ caption }}</span>
    <span v-if="count" class="unit">{{ count }}</span>
  </button>
  <slot v-if="open" />
</template>

<style scoped src="./entry.css" />
