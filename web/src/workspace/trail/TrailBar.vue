<script setup lang="ts">
import { mdiRedoVariant, mdiUndoVariant } from '@mdi/js'
import { computed, nextTick, ref, watch } from 'vue'
import { useWorkspace } from '../store'

const workspace = useWorkspace()
const list = ref<HTMLElement | null>(null)
const steps = computed(() => workspace.steps.map((step, number) => ({ number, words: step.words })))
const footing = computed(() => {
  const parts = []
  if (workspace.roundTripMs) parts.push(`${Math.round(workspace.roundTripMs)} ms`)
  if (workspace.shown?.newest) parts.push(`data to ${dayFormat.format(new Date(workspace.shown.newest))}`)
  return parts.join(' · ')
})
const dayFormat = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })

watch(
  () => workspace.position,
  async () => {
    await nextTick()
    list.value?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  },
)
</script>

<template>
  <footer class="trail" aria-label="Trail">
    <v-btn :icon="mdiUndoVariant" size="24" aria-label="Undo" title="Undo (Ctrl+Z)" :disabled="!workspace.canUndo" @click="workspace.undo" />
    <v-btn :icon="mdiRedoVariant" size="24" aria-label="Redo" title="Redo (Ctrl+Shift+Z)" :disabled="!workspace.canRedo" @click="workspace.redo" />
    <ol ref="list" class="steps">
      <li v-for="step in steps" :key="step.number">
        <button
          class="plain-button step"
          :class="{ later: step.number > workspace.position }"
          :aria-current="step.number === workspace.position ? 'step' : undefined"
          :title="`Go back to: ${step.words}`"
          @click="workspace.goTo(step.number)"
        >
          <span class="mark" />{{ step.words }}
        </button>
      </li>
    </ol>
    <span class="soft footing">{{ footing }}</span>
  </footer>
</template>

<style scoped>
.trail {
  display: flex;
  gap: 4px;
  align-items: center;
  height: var(--trail-height);
  padding: 0 14px 0 8px;
  border-top: 1px solid rgb(var(--v-theme-rule));
}

.steps {
  display: flex;
  flex: 1;
  min-width: 0;
  margin: 0;
  padding: 0 0 0 6px;
  overflow: auto hidden;
  list-style: none;
  scrollbar-width: none;
}

li {
  display: flex;
  align-items: center;
  white-space: nowrap;
}

li + li::before {
  width: 16px;
  margin: 0 8px;
  content: '';
  border-top: 1px solid rgb(var(--v-theme-rule));
}

.step {
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 2px;
  color: rgb(var(--v-theme-soft));
}

.step:hover {
  color: rgb(var(--v-theme-on-background));
}

.mark {
  width: 8px;
  height: 8px;
  border: 1px solid currentcolor;
  border-radius: 50%;
}

.later {
  opacity: 0.6;
}

.step[aria-current] {
  font-weight: 600;
  color: rgb(var(--v-theme-on-background));
}

.step[aria-current] .mark {
  background: rgb(var(--v-theme-secondary));
  border-color: rgb(var(--v-theme-secondary));
}

.footing {
  padding-left: 12px;
  white-space: nowrap;
}

.trail :deep(.v-icon) {
  font-size: 16px;
}
</style>
