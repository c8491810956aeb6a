<script setup lang="ts">
// A number questioned: the records behind it, how it was computed, why it is empty, whether its source agrees.
import { computed, ref, shallowRef } from 'vue'
import { GET, body } from '@/api/client'
import type { WorkingPaper } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import type { CellLines } from '../thingMenu'
import EmptyCauses from './EmptyCauses.vue'
import PaperSheet from './PaperSheet.vue'
import RecordList from './RecordList.vue'
import SourceCheck from './SourceCheck.vue'

type View = 'records' | 'paper' | 'empty' | 'source'
const props = defineProps<{ questioned: { cell: CellLines; view: 'records' | 'paper' | 'empty' }; handle: string }>()
const emit = defineEmits<{ close: [] }>()
const problem = useProblem()
const workspace = useWorkspace()
const view = ref<View>(props.questioned.view)
const paper = shallowRef<WorkingPaper | null>(null)
const isEmpty = computed(() => paper.value?.account.value === null)
const views = computed(() => [
  { view: 'records' as View, words: 'Records behind it' },
  { view: 'paper' as View, words: 'Working paper' },
  ...(isEmpty.value ? [{ view: 'empty' as View, words: 'Why it is empty' }] : []),
  // The rows of another analysis's table are in no file.
  ...(workspace.draft?.starts_from ? [] : [{ view: 'source' as View, words: 'Does the source agree?' }]),
])
const where = computed(() => paper.value?.account.caption.join(' · ') ?? '')

body(GET('/api/answers/{handle}/paper', { params: { path: { handle: props.handle }, query: props.questioned.cell } }))
  .then((found) => (paper.value = found))
  .catch((error: unknown) => {
    problem.tell(error)
    emit('close')
  })

function step(event: KeyboardEvent): void {
  const at = views.value.findIndex((each) => each.view === view.value)
  const to = event.key === 'ArrowRight' ? at + 1 : event.key === 'ArrowLeft' ? at - 1 : -1
  const next = views.value[to]
  if (!next) return
  view.value = next.view
  const tabs = (event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('[role=tab]')
  tabs[to]?.focus()
}
</script>

<template>
  <v-dialog
    aria-labelledby="number-title"
    :model-value="true"
    width="1040"
    scrollable
    @update:model-value="emit('close')"
  >
    <v-card class="slip-body number">
      <h2 id="number-title">
        {{ paper?.account.measure ?? '…' }}<span v-if="where" class="where"> · {{ where }}</span>
      </h2>
      <div class="tabs" role="tablist" aria-label="What to see of the number" @keydown="step">
        <button
          v-for="each in views"
          :id="`tab-${each.view}`"
          :key="each.view"
          type="button"
          role="tab"
          class="plain-button tab"
          :aria-selected="view === each.view"
          aria-controls="number-panel"
          :tabindex="view === each.view ? 0 : -1"
          @click="view = each.view"
        >
          {{ each.words }}
        </button>
      </div>
      <div id="number-panel" class="panel" role="tabpanel" :aria-labelledby="`tab-${view}`">
        <template v-if="paper">
          <RecordList v-if="view === 'records'" :handle="handle" :cell="questioned.cell" :account="paper.account" />
          <PaperSheet v-else-if="view === 'paper'" :paper="paper" />
          <EmptyCauses
            v-else-if="view === 'empty'"
            :handle="handle"
            :cell="questioned.cell"
            :account="paper.account"
            @close="emit('close')"
          />
          <SourceCheck v-else :handle="handle" :cell="questioned.cell" />
        </template>
        <p v-else class="soft">Working it out…</p>
      </div>
      <footer><v-btn variant="flat" color="primary" @click="emit('close')">Close</v-btn></footer>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.number {
  display: flex;
  flex-direction: column;
  gap: 8px;

  /* As high whatever it shows, so that the tabs stay under the pointer. */
  --height: min(720px, 92vh);

  height: var(--height);
  min-height: var(--height);
  max-height: var(--height);
  padding: 16px 20px 14px;
}

h2 {
  margin: 0;
}

.where {
  font-weight: 400;
  color: rgb(var(--v-theme-soft));
}

.tabs {
  display: flex;
  flex: none;
  gap: 18px;
  border-bottom: 1px solid rgb(var(--v-theme-rule));
}

.tab {
  padding: 2px 1px 4px;
  color: rgb(var(--v-theme-soft));
  border-bottom: 2px solid transparent;
}

.tab[aria-selected='true'] {
  font-weight: 600;
  color: rgb(var(--v-theme-on-surface));
  border-bottom-color: rgb(var(--v-theme-secondary));
}

.panel {
  display: flex;
  flex: 1;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
  overflow: auto;
}

footer {
  flex: none;
  text-align: right;
}
</style>
