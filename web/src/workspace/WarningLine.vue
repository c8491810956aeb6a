<script setup lang="ts">
// What a good colleague would say quietly beside the number, with the better choice.
import { useWorkspace } from './store'

const workspace = useWorkspace()
</script>

<template>
  <ul v-if="workspace.shown?.warnings.length" class="warnings" aria-label="Remarks on the numbers">
    <li v-for="warning in workspace.shown.warnings" :key="warning.measure + warning.text">
      <span class="soft">{{ warning.text }}</span>
      <button v-if="warning.gesture" type="button" class="plain-button better" @click="workspace.act(warning.gesture)">
        {{ warning.better }}
      </button>
      <span v-else-if="warning.better" class="soft">{{ warning.better }}.</span>
      <button
        type="button"
        class="plain-button silence"
        :aria-label="`Do not tell me again here: ${warning.text}`"
        @click="workspace.act({ kind: 'silence', warning: warning.key })"
      >
        do not tell me again here
      </button>
    </li>
  </ul>
</template>

<style scoped>
.warnings {
  margin: 0;
  padding: 3px 18px;
  font-size: 12px;
  list-style: none;
  background: rgb(var(--v-theme-tint));
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.silence {
  margin-left: 12px;
  color: rgb(var(--v-theme-soft));
}

.silence:hover {
  text-decoration: underline;
}

.better {
  margin-left: 8px;
  color: rgb(var(--v-theme-secondary));
  text-decoration: underline;
  text-underline-offset: 2px;
}
</style>
