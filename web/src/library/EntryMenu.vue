<script setup lang="ts">
// What can be done with a saved analysis without opening it: as far as the person may.
import { mdiDotsHorizontal } from '@mdi/js'
import type { LibraryEntry } from '@/api/types'
import SlipMenu from '@/shell/SlipMenu.vue'

defineProps<{ entry: LibraryEntry }>()
const emit = defineEmits<{ act: [what: 'rename' | 'copy' | 'share' | 'versions' | 'remove'] }>()
</script>

<template>
  <SlipMenu>
    <template #opener="{ own }">
      <button v-bind="own" type="button" class="plain-button" :aria-label="`What can be done with “${entry.name}”`">
        <v-icon :icon="mdiDotsHorizontal" size="18" />
      </button>
    </template>
    <v-list-item v-if="entry.may === 'manage'" role="menuitem" title="Rename or move…" @click="emit('act', 'rename')" />
    <v-list-item v-if="entry.may !== 'see'" role="menuitem" title="Make a copy" @click="emit('act', 'copy')" />
    <v-list-item
      role="menuitem"
      title="Start from its table"
      subtitle="a new analysis of its rows"
      :to="{ name: 'table', params: { id: entry.id } }"
    />
    <v-list-item
      role="menuitem"
      :title="entry.may === 'manage' ? 'Share…' : 'Who may do what…'"
      @click="emit('act', 'share')"
    />
    <v-list-item v-if="!entry.frozen" role="menuitem" title="Versions…" @click="emit('act', 'versions')" />
    <v-list-item v-if="entry.may === 'manage'" role="menuitem" title="Delete" @click="emit('act', 'remove')" />
  </SlipMenu>
</template>
