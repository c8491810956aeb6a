<script setup lang="ts">
// Two steps side by side: what changed in the sentence, and what changed in the numbers.
import { computed, ref, watch } from 'vue'
import { POST, body } from '@/api/client'
import type { Compared } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import ChangedNumbers from './ChangedNumbers.vue'
import { pathTo, type Step } from './tree'

const props = defineProps<{ step: Step }>()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const problem = useProblem()
const choices = computed(() =>
  workspace.steps.filter((each) => each.id !== props.step.id).map((each) => ({ value: each.id, title: wordsOf(each) })),
)
const other = ref(
  workspace.shownStep !== props.step.id ? workspace.shownStep : (props.step.parent ?? choices.value[0]?.value ?? ''),
)
const compared = ref<Compared | null>(null)
function wordsOf(step: Step): string {
  const place = pathTo(workspace.steps, step.id).length - 1
  return `${place}. ${step.name || step.words}`
}

watch(
  other,
  async (id) => {
    const against = workspace.steps.find((each) => each.id === id)
    if (!against || !workspace.draft) return
    compared.value = null
    const asked = { before: props.step.document, after: against.document }
    try {
      compared.value = await body(
        POST('/api/drafts/{id}/compare', { params: { path: { id: workspace.draft.id } }, body: asked }),
      )
    } catch (error) {
      problem.tell(error)
    }
  },
  { immediate: true },
)
</script>

<template>
  <v-dialog
    aria-label="Compare two steps"
    :model-value="true"
    width="640"
    scrollable
    @update:model-value="emit('close')"
  >
    <v-card class="slip-body">
      <h2>What changed?</h2>
      <p class="between">
        From <strong>{{ wordsOf(step) }}</strong> to
      </p>
      <v-select v-model="other" :items="choices" aria-label="The other step" />
      <template v-if="compared">
        <p v-if="!compared.differences.length" class="soft">The documents are the same.</p>
        <ul v-else class="parts">
          <li v-for="part in compared.differences" :key="part.side + part.part + part.text" :class="part.side">
            <span class="sign">{{ part.side === 'before' ? 'gone' : 'new' }}</span>
            <em class="soft">{{ part.part }}</em> {{ part.text }}
          </li>
        </ul>
        <ChangedNumbers :numbers="compared.numbers" first="First" second="Second" />
      </template>
      <footer><v-btn variant="flat" color="primary" @click="emit('close')">Close</v-btn></footer>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.slip-body {
  display: flex;
  flex-direction: column;
  gap: 8px;
  max-height: 82vh;
  padding: 18px 20px 14px;
}

h2 {
  margin: 0;
  font: 600 20px/26px var(--serif);
}

p {
  margin: 0;
}

.parts {
  margin: 0;
  padding: 0;
  list-style: none;
}

.sign {
  display: inline-block;
  width: 38px;
  font-size: 12px;
  color: rgb(var(--v-theme-success));
}

.before .sign {
  color: rgb(var(--v-theme-error));
}

.before {
  text-decoration-line: line-through;
  text-decoration-color: rgb(var(--v-theme-rule));
}

footer {
  display: flex;
  justify-content: flex-end;
}
</style>
