<script setup lang="ts">
import { mdiPencilOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { useDragging, useLanding } from '../dragging'
import { useWorkspace } from '../store'
import SentenceGap from './SentenceGap.vue'
import SentencePhrase from './SentencePhrase.vue'
import { withGaps } from './gaps'
import { later } from '@/shell/later'

const workspace = useWorkspace()
const dragging = useDragging()
const WriteSlip = later(() => import('./WriteSlip.vue'))
const isWriting = defineModel<boolean>('writing', { default: false })
const bar = ref<HTMLElement | null>(null)
useLanding(bar, () => null)

const parts = computed(() => withGaps(workspace.shown?.sentence ?? [], dragging.offers))
</script>

<template>
  <WriteSlip v-if="isWriting" @close="isWriting = false" />
  <section v-else ref="bar" class="sentence" :class="{ taking: dragging.isDragging }" aria-label="What the table shows">
    <p class="text" aria-live="polite">
      <template v-for="(part, place) in parts" :key="place">
        <SentenceGap v-if="part.offer" :offer="part.offer" />
        <SentencePhrase v-else-if="part.phrase" :phrase="part.phrase" :first="place === 0" />
      </template>
    </p>
    <v-btn
      v-if="workspace.mayExplore"
      class="pen"
      :icon="mdiPencilOutline"
      size="24"
      aria-label="Write the sentence"
      title="Write the sentence (/)"
      @click="isWriting = true"
    />
  </section>
</template>

<style scoped>
.sentence {
  position: relative;
  min-height: 58px;
  max-height: 132px;
  padding: 11px 40px 9px 18px;
  overflow: auto;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgb(var(--v-theme-rule));
}

.taking {
  z-index: 6;
  overflow: visible;
}

.pen {
  position: absolute;
  top: 8px;
  right: 8px;
}

.pen :deep(.v-icon) {
  font-size: 15px;
}

.text {
  margin: 0;
  font: 400 21px/31px var(--serif);
}
</style>
