<script setup lang="ts">
// What a drop would do, said where it would happen.
defineProps<{ words: string }>()
</script>

<template>
  <span class="landing-words">{{ words }}</span>
</template>

<style scoped>
.landing-words {
  display: inline-block;
  padding: 0 8px;
  font-style: normal;
  line-height: 20px;
  color: rgb(var(--v-theme-on-primary));
  white-space: nowrap;
  background: rgb(var(--v-theme-primary));
  border-radius: 2px;
}
</style>
