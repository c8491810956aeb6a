<script setup lang="ts">
import { computed } from 'vue'
import type { LibraryEntry } from '@/api/types'
import { useSession } from '@/shell/session'
import { byFolder, whenSaid } from './entries'
import EntryMenu from './EntryMenu.vue'

const props = defineProps<{ entries: LibraryEntry[]; showOwner?: boolean; flat?: boolean }>()
const emit = defineEmits<{ rename: [entry: LibraryEntry]; remove: [entry: LibraryEntry] }>()
const session = useSession()
const groups = computed(() => (props.flat ? [{ folder: '', entries: props.entries }] : byFolder(props.entries)))
</script>

<template>
  <div v-for="group in groups" :key="group.folder">
    <h3 v-if="group.folder" class="folder">{{ group.folder }}</h3>
    <div v-for="entry in group.entries" :key="entry.id" class="row">
      <router-link class="entry" :to="{ name: 'analysis', params: { id: entry.id } }">
        <span class="name">{{ entry.name }}</span>
        <span v-if="showOwner" class="soft owner">{{ entry.owner_name }}</span>
        <span class="leader" />
        <span class="soft when">{{ whenSaid(entry.updated_at) }}</span>
        <span class="sentence">{{ entry.sentence }}</span>
        <span v-if="entry.description" class="soft description">{{ entry.description }}</span>
      </router-link>
      <span v-if="entry.owner === session.person?.id" class="more">
        <EntryMenu :name="entry.name" @rename="emit('rename', entry)" @remove="emit('remove', entry)" />
      </span>
    </div>
  </div>
</template>

<style scoped>
.folder {
  margin: 12px 0 2px;
  font: italic 15px/20px var(--serif);
  color: rgb(var(--v-theme-soft));
}

.row {
  position: relative;
  padding-right: 26px;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.more {
  position: absolute;
  top: 7px;
  right: 0;
  opacity: 0;
}

.row:hover .more,
.more:focus-within,
.more:has([aria-expanded='true']) {
  opacity: 1;
}

.entry {
  display: grid;
  grid-template-columns: auto auto 1fr auto;
  column-gap: 8px;
  align-items: baseline;
  padding: 6px 4px;
  color: inherit;
  text-decoration: none;
}

.entry:hover .name {
  color: rgb(var(--v-theme-secondary));
}

.name {
  font: 600 16px/22px var(--serif);
}

.owner,
.when {
  font-size: 12px;
  white-space: nowrap;
}

.when {
  grid-column: 4;
}

.leader {
  grid-column: 3;
  border-bottom: 1px dotted rgb(var(--v-theme-rule));
  transform: translateY(-3px);
}

.sentence,
.description {
  grid-column: 1 / -1;
}

.sentence {
  font: italic 14px/19px var(--serif);
}

.description {
  font-size: 12px;
}
</style>
