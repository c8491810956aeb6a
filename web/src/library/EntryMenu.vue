<script setup lang="ts">
// What its owner can do with a saved analysis, without opening it.
import { mdiDotsHorizontal } from '@mdi/js'
import { ref } from 'vue'
import { useMenuFocus } from '@/workspace/useMenuFocus'

defineProps<{ name: string }>()
const emit = defineEmits<{ rename: []; remove: [] }>()
const isOpen = ref(false)
const list = ref<{ $el: HTMLElement } | null>(null)
useMenuFocus(isOpen, list)
</script>

<template>
  <v-menu v-model="isOpen" location="bottom end" :offset="2">
    <template #activator="{ props: own }">
      <button v-bind="own" type="button" class="plain-button" :aria-label="`What can be done with “${name}”`">
        <v-icon :icon="mdiDotsHorizontal" size="18" />
      </button>
    </template>
    <v-list ref="list" class="slip-list" role="menu">
      <v-list-item role="menuitem" title="Rename or move…" @click="emit('rename')" />
      <v-list-item role="menuitem" title="Delete" @click="emit('remove')" />
    </v-list>
  </v-menu>
</template>
