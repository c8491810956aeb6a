<script setup lang="ts">
// Something that takes its time: how far it is, and a way to take it back.
import type { Waiting } from './waiting'

defineProps<{ waiting: Waiting }>()
const emit = defineEmits<{ takeBack: [] }>()
</script>

<template>
  <div class="wait" role="status">
    <v-progress-linear
      class="line"
      :model-value="waiting.share"
      :indeterminate="!waiting.share"
      color="saffron"
      height="3"
    />
    <span class="soft">{{ waiting.doing }}{{ waiting.words }}</span>
    <v-btn size="small" @click="emit('takeBack')">Take it back</v-btn>
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
