<script setup lang="ts">
// What its owner can do with a saved analysis, without opening it.
import { mdiDotsHorizontal } from '@mdi/js'
import SlipMenu from '@/shell/SlipMenu.vue'

defineProps<{ name: string }>()
const emit = defineEmits<{ rename: []; remove: [] }>()
</script>

<template>
  <SlipMenu>
    <template #opener="{ own }">
      <button v-bind="own" type="button" class="plain-button" :aria-label="`What can be done with “${name}”`">
        <v-icon :icon="mdiDotsHorizontal" size="18" />
      </button>
    </template>
    <v-list-item role="menuitem" title="Rename or move…" @click="emit('rename')" />
    <v-list-item role="menuitem" title="Delete" @click="emit('remove')" />
  </SlipMenu>
</template>
