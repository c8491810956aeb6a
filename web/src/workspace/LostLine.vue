<script setup lang="ts">
// What the analysis names and its model no longer has. The rest is shown; nothing of it is lost until somebody says so.
import { useWorkspace } from './store'

const workspace = useWorkspace()
</script>

<template>
  <ul v-if="workspace.shown?.lost.length" class="lost" aria-label="Gone from the model">
    <li v-for="thing in workspace.shown.lost" :key="thing.text">
      {{ thing.text }} <span class="soft">The rest is shown.</span>
      <button type="button" class="plain-button better" @click="workspace.act(thing.gesture)">
        {{ thing.better }}
      </button>
    </li>
  </ul>
</template>

<style scoped>
.lost {
  margin: 0;
  padding: 3px 18px;
  font-size: 12px;
  list-style: none;
  background: rgb(var(--v-theme-secondary-tint));
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.better {
  margin-left: 8px;
  color: rgb(var(--v-theme-secondary));
  text-decoration: underline;
  text-underline-offset: 2px;
}
</style>
