<script setup lang="ts">
// A question that takes its time: how far it is, and a way to take it back.
import { useWorkspace } from './store'

const workspace = useWorkspace()
</script>

<template>
  <div v-if="workspace.waiting" class="wait" role="status">
    <v-progress-linear class="line" :model-value="workspace.waiting.share" :indeterminate="!workspace.waiting.share" color="saffron" height="3" />
    <span class="soft">Still counting{{ workspace.waiting.words }}</span>
    <v-btn size="small" @click="workspace.takeBack">Take it back</v-btn>
  </div>
</template>

<style scoped>
.wait {
  position: absolute;
  inset: auto 16px 16px auto;
  z-index: 5;
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 6px 10px;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-rule));
}

.line {
  position: absolute;
  inset: 0 0 auto;
}
</style>
