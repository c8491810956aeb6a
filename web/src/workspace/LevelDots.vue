<script setup lang="ts">
// One dot for each level of a hierarchy, filled down to the level shown.
defineProps<{ shown: number; all: number }>()
</script>

<template>
  <span class="dots" aria-hidden="true"><i v-for="level in all" :key="level" :class="{ full: level <= shown }" /></span>
</template>

<style scoped>
.dots {
  display: inline-flex;
  gap: 2px;
  vertical-align: middle;
}

i {
  width: 5px;
  height: 5px;
  border: 1px solid currentcolor;
  border-radius: 50%;
}

i.full {
  background: currentcolor;
}
</style>
