<script setup lang="ts">
// What was deleted lately, folded to a line: it can be brought back for a while.
import type { LibraryEntry } from '@/api/types'

defineProps<{ entries: LibraryEntry[] }>()
const emit = defineEmits<{ back: [entry: LibraryEntry] }>()
</script>

<template>
  <details class="soft">
    <summary>{{ entries.length }} deleted lately</summary>
    <p>They can be brought back for thirty days.</p>
    <div v-for="entry in entries" :key="entry.id" class="row">
      <span class="name">{{ entry.name }}</span>
      <button class="plain-button act" :aria-label="`Bring back “${entry.name}”`" @click="emit('back', entry)">bring back</button>
    </div>
  </details>
</template>

<style scoped>
details {
  margin-top: 26px;
}

summary {
  cursor: pointer;
}

p {
  margin: 4px 0;
}

.row {
  display: flex;
  gap: 12px;
  align-items: baseline;
  padding: 3px 0;
}

.name {
  font: italic 15px/20px var(--serif);
}

.act {
  text-decoration: underline;
  text-underline-offset: 2px;
}
</style>
