<script setup lang="ts">
import { computed } from 'vue'
import { useDragging } from '../dragging'
import { useWorkspace } from '../store'
import SentenceGap from './SentenceGap.vue'
import SentencePhrase from './SentencePhrase.vue'
import { withGaps } from './gaps'

const workspace = useWorkspace()
const dragging = useDragging()
const parts = computed(() => withGaps(workspace.shown?.sentence ?? [], dragging.offers))
</script>

<template>
  <section class="sentence" aria-label="What the table shows">
    <p class="text" aria-live="polite">
      <template v-for="(part, place) in parts" :key="place">
        <SentenceGap v-if="part.offer" :offer="part.offer" />
        <SentencePhrase v-else-if="part.phrase" :phrase="part.phrase" :first="place === 0" />
      </template>
    </p>
  </section>
</template>

<style scoped>
.sentence {
  min-height: 58px;
  max-height: 132px;
  padding: 11px 18px 9px;
  overflow: auto;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgb(var(--v-theme-rule));
}

.text {
  margin: 0;
  font: 400 21px/31px var(--serif);
  font-optical-sizing: auto;
}
</style>
