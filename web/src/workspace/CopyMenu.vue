<script setup lang="ts">
// The table as it is seen, taken elsewhere: onto the clipboard or as a file.
import { ref } from 'vue'
import { useCopying } from './table/copying'
import { useSelection } from './table/selection'
import { useMenuFocus } from './useMenuFocus'

defineProps<{ name: string; disabled: boolean }>()
const copying = useCopying()
const selection = useSelection()
const isOpen = ref(false)
const list = ref<{ $el: HTMLElement } | null>(null)
useMenuFocus(isOpen, list)
</script>

<template>
  <v-menu v-model="isOpen" location="bottom end" :offset="2">
    <template #activator="{ props: own }">
      <v-btn v-bind="own" :disabled="disabled" title="The table as it is seen, onto the clipboard or as a file">Copy</v-btn>
    </template>
    <v-list ref="list" class="slip-list" role="menu">
      <v-list-item v-if="selection.selected.length" role="menuitem" title="What is selected" @click="copying.copySelected" />
      <v-list-item role="menuitem" title="The whole table" @click="copying.copyTable" />
      <v-list-item role="menuitem" title="As a CSV file" @click="copying.download(name)" />
    </v-list>
  </v-menu>
</template>
