<script setup lang="ts">
// What was deleted lately: it can be brought back for a while.
import { useLibrary } from './library'

const library = useLibrary()
</script>

<template>
  <p class="soft">What is here can be brought back for thirty days. A folder comes back with all that went with it.</p>
  <div v-for="model in library.library!.removed_models" :key="model.name" class="row">
    <span class="name">{{ model.caption }}</span><span class="soft">a model, with its files</span>
    <button
      type="button"
      class="plain-button act"
      :aria-label="`Bring back the model “${model.caption}”`"
      @click="library.bringModelBack(model)"
    >
      bring back
    </button>
  </div>
  <div v-for="folder in library.library!.removed_folders" :key="folder.id" class="row">
    <span class="name">{{ folder.name }}</span><span class="soft">a folder</span>
    <button
      type="button"
      class="plain-button act"
      :aria-label="`Bring back “${folder.name}”`"
      @click="library.bringFolderBack(folder)"
    >
      bring back
    </button>
  </div>
  <div v-for="entry in library.library!.removed" :key="entry.id" class="row">
    <span class="name">{{ entry.name }}</span>
    <button
      type="button"
      class="plain-button act"
      :aria-label="`Bring back “${entry.name}”`"
      @click="library.bringBack(entry)"
    >
      bring back
    </button>
  </div>
</template>

<style scoped>
p {
  margin: 0 0 8px;
}

.row {
  display: flex;
  gap: 12px;
  align-items: baseline;
  padding: 5px 0;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.name {
  font: 600 16px/22px var(--serif);
}

.act {
  margin-left: auto;
  text-decoration: underline;
  text-underline-offset: 2px;
}
</style>
