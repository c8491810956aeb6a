<script setup lang="ts">
import { mdiKeyboardOutline, mdiRedoVariant, mdiSourceBranch, mdiUndoVariant } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import { useWorkspace } from '../store'
import { useMenuFocus } from '../useMenuFocus'
import { branchesOf, type Step } from './tree'
import { later } from '@/shell/later'

const CompareSlip = later(() => import('./CompareSlip.vue'))
const NameSlip = later(() => import('./NameSlip.vue'))
const emit = defineEmits<{ keys: [] }>()
const workspace = useWorkspace()
const list = ref<HTMLElement | null>(null)
const naming = ref<Step | null>(null)
const comparing = ref<Step | null>(null)
const chosen = ref<Step | null>(null)
const anchor = ref<HTMLElement | null>(null)
const isOpen = ref(false)
const menuList = ref<{ $el: HTMLElement } | null>(null)
useMenuFocus(isOpen, menuList)
const here = computed(() => workspace.way.length - 1)
const steps = computed(() =>
  workspace.trail.map((step, place) => {
    const branches = branchesOf(workspace.steps, step.id)
    return { step, place, others: branches.filter((each) => each.id !== workspace.trail[place + 1]?.id) }
  }),
)
const footing = computed(() => {
  const parts = []
  if (workspace.isBehind) parts.push('the table is behind')
  else if (workspace.roundTripMs) parts.push(`${Math.round(workspace.roundTripMs)} ms`)
  const newest = workspace.answered?.answered?.newest
  if (newest) parts.push(`data to ${dayFormat.format(new Date(newest))}`)
  const since = workspace.answered?.answered?.since
  if (since)
    parts.push(
      `files of ${momentFormat.format(new Date(since))}${workspace.answered?.answered?.is_behind ? ', as newer ones cannot be read' : ''}`,
    )
  return parts.join(' · ')
})
const momentFormat = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
})
const dayFormat = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
const modeWords = computed(() => (workspace.isOnRequest ? 'On request' : 'At once'))
const modeTitle = computed(() =>
  workspace.isOnRequest
    ? 'Steps wait until you show them. Click to answer each at once.'
    : 'Each step is answered at once. Click to let them wait until you ask.',
)

function waysOn(count: number): string {
  return count === 1 ? 'Another way on from here' : `${count} other ways on from here`
}

function open(step: Step, event: Event): void {
  chosen.value = step
  anchor.value = event.currentTarget as HTMLElement
  isOpen.value = true
}

watch(
  [() => workspace.shownStep, footing],
  // With the frame and not before it: where it stands is only known once all else has been laid out.
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
      :disabled="!workspace.canUndo"
      @click="workspace.undo"
    />
    <v-btn
      :icon="mdiRedoVariant"
      size="24"
      aria-label="Redo"
      title="Redo (Ctrl+Shift+Z)"
      :disabled="!workspace.canRedo"
      @click="workspace.redo"
    />
    <ol ref="list" class="steps">
      <li v-for="{ step, place, others } in steps" :key="step.id">
        <button
          type="button"
          class="plain-button step"
          :class="{ later: place > here, queued: workspace.queued.has(step.id), named: step.name }"
          :aria-current="place === here ? 'step' : undefined"
          :title="step.name ? step.words : undefined"
          aria-haspopup="menu"
          @click="place === here ? open(step, $event) : workspace.goTo(step.id)"
          @contextmenu.prevent="open(step, $event)"
          @keydown.shift.f10.prevent="open(step, $event)"
        >
          <span class="mark" />{{ step.name || step.words }}
        </button>
        <v-menu v-if="others.length" location="top">
          <template #activator="{ props: activator }">
            <button
              v-bind="activator"
              type="button"
              class="plain-button branch"
              :aria-label="waysOn(others.length)"
              :title="waysOn(others.length)"
            >
              <v-icon :icon="mdiSourceBranch" size="14" />{{ others.length }}
            </button>
          </template>
          <v-list class="slip-list" role="menu">
            <v-list-item
              v-for="other in others"
              :key="other.id"
              role="menuitem"
              :title="other.name || other.words"
              @click="workspace.goTo(other.id)"
            />
          </v-list>
        </v-menu>
      </li>
    </ol>
    <span class="soft footing">{{ footing }}</span>
    <v-btn v-if="workspace.isBehind" class="run" title="Show what is arranged (Ctrl+Enter)" @click="workspace.run"
      >Show it</v-btn
    >
    <button
      type="button"
      class="plain-button mode"
      :class="{ waits: workspace.isOnRequest }"
      :title="modeTitle"
      :aria-pressed="workspace.isOnRequest"
      @click="workspace.turnOnRequest"
    >
      {{ modeWords }}
    </button>
    <v-btn :icon="mdiKeyboardOutline" size="24" aria-label="Keys" title="Keys (?)" @click="emit('keys')" />
    <v-menu v-if="anchor" v-model="isOpen" :target="anchor" location="top">
      <v-list v-if="chosen" ref="menuList" class="slip-list" role="menu">
        <v-list-item
          v-if="chosen.id !== workspace.shownStep"
          role="menuitem"
          title="Go back to this step"
          @click="workspace.goTo(chosen.id)"
        />
        <v-list-item role="menuitem" title="Name this step…" @click="naming = chosen" />
        <v-list-item
          v-if="workspace.steps.length > 1"
          role="menuitem"
          title="Compare with another step…"
          @click="comparing = chosen"
        />
      </v-list>
    </v-menu>
    <NameSlip v-if="naming" :step="naming" @close="naming = null" />
    <CompareSlip v-if="comparing" :step="comparing" @close="comparing = null" />
  </footer>
</template>

<style scoped src="./trail.css" />
<style scoped>
.trail {
  display: flex;
  gap: 4px;
  align-items: center;
  height: var(--trail-height);
  padding: 0 14px 0 8px;
  border-top: 1px solid rgb(var(--v-theme-rule));
}

.mark {
  width: 8px;
  height: 8px;
  border: 1px solid currentcolor;
  border-radius: 50%;
}

.named {
  font-family: var(--serif);
  font-style: italic;
}

.branch {
  display: inline-flex;
  align-items: center;
  padding: 0 3px;
  font-size: 11px;
  color: rgb(var(--v-theme-soft));
}

.later .mark {
  border-style: dashed;
}

.step.queued {
  padding: 1px 6px;
  color: rgb(var(--v-theme-on-background));
  background: rgb(var(--v-theme-saffron-tint));
  border-radius: 2px;
}

.step.queued .mark {
  background: rgb(var(--v-theme-saffron));
  border-color: rgb(var(--v-theme-saffron));
}

.footing {
  padding-left: 12px;
  white-space: nowrap;
}

.run {
  background: rgb(var(--v-theme-saffron-tint));
}

.mode {
  padding: 0 6px;
  margin-left: 6px;
  white-space: nowrap;
  border: 1px solid rgb(var(--v-theme-rule));
  border-radius: 2px;
}

.waits {
  border-color: rgb(var(--v-theme-saffron));
}

.trail :deep(.v-icon) {
  font-size: 16px;
}
</style>
