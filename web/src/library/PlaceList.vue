<script setup lang="ts">
// Where in the library one looks: a few lists, and the folders as they lie in each other.
import { mdiAccountMultipleOutline } from '@mdi/js'
import { computed } from 'vue'
import { asTree } from './entries'
import { useLibrary } from './library'
import type { Place } from './places'

defineProps<{ place: Place; counts: Record<Place, number> }>()
const emit = defineEmits<{ newFolder: [] }>()
const library = useLibrary()
const lines = computed(() => {
  const folders = library.library?.folders ?? []
  const known = new Set(folders.map((folder) => folder.id))
  // One whose outer folder is not the person's to see stands outermost.
  return asTree(
    folders.map((folder) => (folder.parent && !known.has(folder.parent) ? { ...folder, parent: null } : folder)),
  )
})
const LISTS: { place: Place; words: string }[] = [
  { place: 'recent', words: 'Recent' },
  { place: 'favourites', words: 'Favourites' },
  { place: 'all', words: 'All analyses' },
  { place: 'shared', words: 'Shared with me' },
  { place: 'deleted', words: 'Deleted lately' },
]
</script>

<template>
  <nav aria-label="Places">
    <template v-for="each in LISTS" :key="each.place">
      <router-link
        v-if="each.place !== 'deleted' || counts.deleted || place === 'deleted'"
        class="line"
        :class="{ chosen: place === each.place }"
        :aria-current="place === each.place ? 'page' : undefined"
        :to="{ name: 'library', query: each.place === 'recent' ? {} : { in: each.place } }"
      >
        <span>{{ each.words }}</span><span class="soft count">{{ counts[each.place] || '' }}</span>
      </router-link>
    </template>
    <h2 class="small-caps">Folders</h2>
    <router-link
      v-for="{ folder, depth } in lines"
      :key="folder.id"
      class="line"
      :class="{ chosen: place === folder.id }"
      :aria-current="place === folder.id ? 'page' : undefined"
      :style="{ paddingLeft: `${8 + depth * 12}px` }"
      :to="{ name: 'library', query: { in: folder.id } }"
    >
      <span class="folder">{{ folder.name }}</span>
      <v-icon
        v-if="folder.is_shared || folder.may !== 'manage'"
        :icon="mdiAccountMultipleOutline"
        size="13"
        title="Shared"
      />
      <span class="soft count">{{ counts[folder.id] || '' }}</span>
    </router-link>
    <button type="button" class="plain-button line soft" @click="emit('newFolder')">New folder…</button>
  </nav>
</template>

<style scoped>
.line {
  display: flex;
  gap: 6px;
  align-items: center;
  width: 100%;
  padding: 2px 8px;
  color: inherit;
  text-decoration: none;
}

.line:hover {
  background: rgb(var(--v-theme-background));
}

.line.chosen {
  font-weight: 600;
  color: rgb(var(--v-theme-secondary));
}

.folder {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.count {
  margin-left: auto;
  font-weight: 400;
}

h2 {
  margin: 14px 8px 2px;
}
</style>
