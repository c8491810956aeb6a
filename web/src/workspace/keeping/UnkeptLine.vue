<script setup lang="ts">
// Steps that the server could not keep: said at once, with what keeps them from it and the way on.
import { computed } from 'vue'
import { useWorkspace } from '../store'

const workspace = useWorkspace()
const count = computed(() => workspace.unkept.length)
const words = computed(() =>
  count.value === 1
    ? 'Your last step is kept on this page alone.'
    : `Your last ${count.value} steps are kept on this page alone.`,
)
</script>

<template>
  <div v-if="workspace.trouble && count" class="unkept" role="alert">
    <strong>{{ workspace.trouble.message }}</strong> {{ words }} {{ workspace.trouble.hint }}
    <button type="button" class="plain-button again" @click="workspace.sendAgain">Send again now</button>
  </div>
</template>

<style scoped>
.unkept {
  padding: 4px 18px;
  background: rgb(var(--v-theme-secondary-tint));
  border-bottom: 1px solid rgb(var(--v-theme-secondary));
}

.again {
  margin-left: 8px;
  color: rgb(var(--v-theme-secondary));
  text-decoration: underline;
  text-underline-offset: 2px;
}
</style>
