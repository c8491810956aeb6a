<script setup lang="ts">
// The steps that were taken from what is in use, each of which can be gone back to.
import { mdiRedoVariant, mdiUndoVariant } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import { useShaping } from './shaping'

const shaping = useShaping()
const list = ref<HTMLElement | null>(null)
const isAsked = ref(false)
const here = computed(() => shaping.trail.findIndex((each) => each.id === shaping.shown))
const footing = computed(() => {
  const ties = shaping.bench?.ties ?? []
  const broken = ties.filter((each) => each.unknown || each.repeated.length || each.trouble).length
  const unread = (shaping.bench?.tables ?? []).filter(
    (each) => each.trouble || each.columns.some((column) => column.trouble),
  ).length
  const parts = []
  if (unread) parts.push(unread === 1 ? 'a table does not fit' : `${unread} tables do not fit`)
  if (broken) parts.push(broken === 1 ? 'a tie misses some' : `${broken} ties miss some`)
  if (!parts.length && shaping.bench) parts.push('every tie finds what it points at')
  return parts.join(' · ')
})
const time = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })

function told(step: { person?: string | null; at: string }): string {
  return `${step.person ?? 'Somebody'}, ${time.format(new Date(step.at))}`
}

async function discard(): Promise<void> {
  isAsked.value = false
  await shaping.discard()
}

watch(
  () => shaping.shown,
  () =>
    requestAnimationFrame(() =>
      list.value?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' }),
    ),
)
</script>

<template>
  <footer class="trail" aria-label="Trail">
    <v-btn
      :icon="mdiUndoVariant"
      size="24"
      aria-label="Undo"
      title="Undo (Ctrl+Z)"
      :disabled="!shaping.canUndo || shaping.isBusy"
      @click="shaping.undo"
    />
    <v-btn
      :icon="mdiRedoVariant"
      size="24"
      aria-label="Redo"
      title="Redo (Ctrl+Shift+Z)"
      :disabled="!shaping.canRedo || shaping.isBusy"
      @click="shaping.redo"
    />
    <ol ref="list" class="steps" tabindex="-1">
      <li>
        <button
          type="button"
          class="plain-button step"
          :aria-current="shaping.shown === null ? 'step' : undefined"
          @click="shaping.goTo(null)"
        >
          <span class="mark" />as it is in use
        </button>
      </li>
      <li v-for="(step, at) in shaping.trail" :key="step.id">
        <button
          type="button"
          class="plain-button step"
          :class="{ later: at > here }"
          :aria-current="at === here ? 'step' : undefined"
          :title="told(step)"
          @click="shaping.goTo(step.id)"
        >
          <span class="mark" />{{ step.words }}
        </button>
      </li>
    </ol>
    <template v-if="isAsked">
      <span>Every step is forgotten.</span>
      <v-btn class="quiet-button" @click="discard">Forget them</v-btn>
      <v-btn class="quiet-button" @click="isAsked = false">Keep them</v-btn>
    </template>
    <template v-else>
      <button v-if="shaping.steps.length" type="button" class="plain-button soft discard" @click="isAsked = true">
        discard the draft
      </button>
      <span class="soft footing">{{ footing }}</span>
    </template>
  </footer>
</template>

<style scoped src="../workspace/trail/trail.css" />
<style scoped>
.trail {
  display: flex;
  gap: 6px;
  align-items: center;
  height: var(--trail-height);
  padding: 0 14px 0 8px;
  border-top: 1px solid rgb(var(--v-theme-rule));
}

.later {
  font-style: italic;
}

.mark {
  width: 8px;
  height: 8px;
  border: 1px solid rgb(var(--v-theme-soft));
  border-radius: 50%;
}

.footing,
.discard {
  white-space: nowrap;
}

.discard:hover {
  text-decoration: underline;
}

.footing {
  padding-left: 12px;
}
</style>
