<script setup lang="ts">
import { mdiAccountMultipleOutline, mdiStar, mdiStarOutline } from '@mdi/js'
import { computed } from 'vue'
import type { LibraryEntry } from '@/api/types'
import { useSession } from '@/shell/session'
import EntryMenu from './EntryMenu.vue'
import EntryPicture from './EntryPicture.vue'
import { whenSaid } from './entries'
import { useLibrary } from './library'

const props = defineProps<{ entries: LibraryEntry[]; showsFolder?: boolean }>()
const emit = defineEmits<{ act: [what: 'rename' | 'share' | 'versions', entry: LibraryEntry] }>()
const session = useSession()
const library = useLibrary()
const rows = computed(() =>
  props.entries.map((entry) => ({
    entry,
    by: entry.owner === session.person?.id ? '' : entry.owner_name,
    path: library.paths.get(entry.folder ?? '') ?? '',
    folder: props.showsFolder
      ? (library.paths
          .get(entry.folder ?? '')
          ?.split(' › ')
          .at(-1) ?? '')
      : '',
  })),
)

function act(what: 'rename' | 'copy' | 'share' | 'versions' | 'remove', entry: LibraryEntry): void {
  if (what === 'copy') void library.copy(entry)
  else if (what === 'remove') void library.remove(entry)
  else emit('act', what, entry)
}
</script>

<template>
  <div v-for="{ entry, by, path, folder } in rows" :key="entry.id" class="row" :data-entry="entry.id">
    <router-link class="entry" :to="{ name: 'analysis', params: { id: entry.id } }">
      <EntryPicture v-if="entry.brief" class="picture" :outline="entry.brief.outline" />
      <span class="name">{{ entry.name }}</span>
      <span class="soft aside" :title="path"
        >{{ [folder, by].filter(Boolean).join(' · ') }}
        <v-icon v-if="entry.is_shared && !by" :icon="mdiAccountMultipleOutline" size="13" title="Shared"
      /></span>
      <span class="leader" />
      <span class="soft when">{{
        entry.frozen ? `frozen ${whenSaid(entry.frozen.at)}` : whenSaid(entry.updated_at)
      }}</span>
      <span class="sentence"
        >{{ entry.sentence
        }}<span v-if="entry.starts_from" class="soft origin">, from the table of “{{ entry.starts_from }}”</span></span
      >
      <span v-if="entry.description" class="soft description">{{ entry.description }}</span>
    </router-link>
    <span class="acts">
      <button
        type="button"
        class="plain-button star"
        :class="{ chosen: entry.is_favourite }"
        :aria-pressed="entry.is_favourite"
        :aria-label="`Favourite: ${entry.name}`"
        :title="entry.is_favourite ? 'A favourite of yours' : 'Make it a favourite'"
        @click="library.turnFavourite(entry)"
      >
        <v-icon :icon="entry.is_favourite ? mdiStar : mdiStarOutline" size="16" />
      </button>
      <EntryMenu class="more" :entry="entry" @act="act($event, entry)" />
    </span>
  </div>
</template>

<style scoped>
.row {
  position: relative;
  padding-right: 52px;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.acts {
  position: absolute;
  top: 7px;
  right: 0;
  display: flex;
  gap: 8px;
}

.acts > *:not(.chosen) {
  opacity: 0;
}

.row:hover .acts > *,
.row:focus-within .acts > *,
.acts:has([aria-expanded='true']) > * {
  opacity: 1;
}

.star.chosen {
  color: rgb(var(--v-theme-secondary));
}

.entry {
  display: grid;
  grid-template-columns: 44px auto auto minmax(12px, 1fr) auto;
  column-gap: 10px;
  align-items: baseline;
  padding: 7px 4px 8px 0;
  color: inherit;
  text-decoration: none;
}

.picture {
  grid-row: 1 / span 3;
  align-self: start;
  margin-top: 3px;
}

.entry:hover .name {
  color: rgb(var(--v-theme-secondary));
}

.name {
  grid-column: 2;
  font: 600 16px/22px var(--serif);
}

.aside,
.when {
  font-size: 12px;
  white-space: nowrap;
}

.aside {
  overflow: hidden;
  text-overflow: ellipsis;
}

.when {
  grid-column: 5;
}

.leader {
  grid-column: 4;
  border-bottom: 1px dotted rgb(var(--v-theme-rule));
  transform: translateY(-3px);
}

.sentence,
.description {
  grid-column: 2 / -1;
}

.sentence {
  font: italic 14px/19px var(--serif);
}

.description {
  font-size: 12px;
}
</style>
