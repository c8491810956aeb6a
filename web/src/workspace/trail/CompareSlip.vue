<script setup lang="ts">
// Two steps side by side: what changed in the sentence, and what changed in the numbers.
import { computed, ref, watch } from 'vue'
import { POST, body } from '@/api/client'
import type { Compared } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import { pathTo, type Step } from './tree'

const props = defineProps<{ step: Step }>()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const problem = useProblem()
const choices = computed(() =>
  workspace.steps.filter((each) => each.id !== props.step.id).map((each) => ({ value: each.id, title: wordsOf(each) })),
)
const other = ref(workspace.shownStep !== props.step.id ? workspace.shownStep : (props.step.parent ?? choices.value[0]?.value ?? ''))
const compared = ref<Compared | null>(null)
const numbers = computed(() => compared.value?.numbers ?? null)
const counts = computed(() => {
  const found = numbers.value
  if (!found) return compared.value ? 'There are too many numbers to compare one by one.' : ''
  const parts = [`${found.same.toLocaleString('en-GB')} the same`, `${found.changed.toLocaleString('en-GB')} changed`]
  if (found.only_before) parts.push(`${found.only_before.toLocaleString('en-GB')} only in the first`)
  if (found.only_after) parts.push(`${found.only_after.toLocaleString('en-GB')} only in the second`)
  return `Of the numbers, ${parts.join(', ')}.`
})

function wordsOf(step: Step): string {
  const place = pathTo(workspace.steps, step.id).length - 1
  return `${place}. ${step.name || step.words}`
}

function write(value: number | string | null | undefined): string {
  return value === null || value === undefined ? '' : Number(value).toLocaleString('en-GB', { maximumFractionDigits: 2 }).replace('-', '−')
}

watch(
  other,
  async (id) => {
    const against = workspace.steps.find((each) => each.id === id)
    if (!against || !workspace.draft) return
    compared.value = null
    const asked = { before: props.step.document, after: against.document }
    try {
      compared.value = await body(POST('/api/drafts/{id}/compare', { params: { path: { id: workspace.draft.id } }, body: asked }))
    } catch (error) {
      problem.tell(error)
    }
  },
  { immediate: true },
)
</script>

<template>
  <v-dialog aria-label="Compare two steps" :model-value="true" width="640" scrollable @update:model-value="emit('close')">
    <v-card class="slip-body">
      <h2>What changed?</h2>
      <p class="between">From <strong>{{ wordsOf(step) }}</strong> to</p>
      <v-select v-model="other" :items="choices" aria-label="The other step" />
      <template v-if="compared">
        <p v-if="!compared.differences.length" class="soft">The documents are the same.</p>
        <ul v-else class="parts">
          <li v-for="part in compared.differences" :key="part.side + part.part + part.text" :class="part.side">
            <span class="sign">{{ part.side === 'before' ? 'gone' : 'new' }}</span> <em class="soft">{{ part.part }}</em> {{ part.text }}
          </li>
        </ul>
        <p>{{ counts }}</p>
        <div v-if="numbers?.largest.length" class="scroll" tabindex="0" role="region" aria-label="The largest changes">
          <table>
            <thead><tr><th scope="col">Where</th><th scope="col">Measure</th><th scope="col" class="figure">First</th><th scope="col" class="figure">Second</th><th scope="col" class="figure">Change</th></tr></thead>
            <tbody>
              <tr v-for="(cell, place) in numbers.largest" :key="place">
                <th scope="row">{{ cell.caption }}</th><td>{{ cell.measure }}</td>
                <td class="figure">{{ write(cell.before) }}</td><td class="figure">{{ write(cell.after) }}</td><td class="figure">{{ write(cell.difference) }}</td>
              </tr>
            </tbody>
          </table>
        </div>
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

.scroll {
  min-height: 0;
  overflow: auto;
}

table {
  width: 100%;
  border-collapse: collapse;
}

th {
  font-weight: 400;
  text-align: left;
}

thead th {
  font-size: 12px;
  font-weight: 600;
  border-bottom: 1px solid rgb(var(--v-theme-on-surface));
}

td,
th {
  padding: 1px 8px 1px 0;
}

.figure {
  text-align: right;
}

footer {
  display: flex;
  justify-content: flex-end;
}
</style>
