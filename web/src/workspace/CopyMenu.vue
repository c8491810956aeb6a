<script setup lang="ts">
// The table as it is seen, taken elsewhere: onto the clipboard or as a file.
import SlipMenu from '@/shell/SlipMenu.vue'
import { useCopying } from './table/copying'
import { useSelection } from './table/selection'

defineProps<{ name: string; disabled: boolean }>()
const copying = useCopying()
const selection = useSelection()
</script>

<template>
  <SlipMenu>
    <template #opener="{ own }">
      <v-btn v-bind="own" :disabled="disabled" title="The table as it is seen, onto the clipboard or as a file">Copy</v-btn>
    </template>
    <v-list-item v-if="selection.selected.length" role="menuitem" title="What is selected" @click="copying.copySelected" />
    <v-list-item role="menuitem" title="The whole table" @click="copying.copyTable" />
    <v-list-item role="menuitem" title="As a CSV file" @click="copying.download(name)" />
  </SlipMenu>
</template>
