<script setup lang="ts">
// How the whole table looks. The same can be kept as one's own, for analyses that are begun later.
import { computed, ref } from 'vue'
import { PUT, body } from '@/api/client'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'

const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const problem = useProblem()
const begun = workspace.document?.dress
const look = ref(begun?.look ?? 'ruled')
const rows = ref(begun?.rows ?? 'stepped')
const repeats = ref(begun?.repeats_labels ?? false)
const holdsRows = ref(['both', 'rows'].includes(begun?.frozen ?? 'both'))
const holdsColumns = ref(['both', 'columns'].includes(begun?.frozen ?? 'both'))
const width = ref(begun?.label_width?.toString() ?? '')
const isKept = ref(false)
const frozen = computed(
  () =>
    (holdsRows.value ? (holdsColumns.value ? 'both' : 'rows') : holdsColumns.value ? 'columns' : 'none') as
      'both' | 'rows' | 'columns' | 'none',
)
const wanted = computed(() => ({
  kind: 'dress_table' as const,
  look: look.value,
  rows: rows.value,
  repeats_labels: repeats.value,
  frozen: frozen.value,
}))
const LOOKS = [
  { value: 'ruled', words: 'ruled: a line above each outer row' },
  { value: 'striped', words: 'striped: every other row shaded' },
  { value: 'open', words: 'open: taller rows' },
  { value: 'tight', words: 'tight: more rows on a screen' },
] as const
const FORMS = [
  { value: 'stepped', words: 'stepped in below what they stand under' },
  { value: 'full_paths', words: 'each with its full path' },
  { value: 'levels', words: 'in a column for each level' },
] as const

function apply(): void {
  const changed = {
    kind: 'dress_table' as const,
    look: look.value === (begun?.look ?? 'ruled') ? null : look.value,
    rows: rows.value === (begun?.rows ?? 'stepped') ? null : rows.value,
    repeats_labels: repeats.value === (begun?.repeats_labels ?? false) ? null : repeats.value,
    frozen: frozen.value === (begun?.frozen ?? 'both') ? null : frozen.value,
  }
  const wide = width.value === '' ? null : Number(width.value)
  if (Object.values(changed).some((each) => each !== null && each !== 'dress_table')) void workspace.act(changed)
  if (wide !== (begun?.label_width ?? null)) void workspace.act({ kind: 'set_width', measure: null, width: wide })
  emit('close')
}

async function keep(): Promise<void> {
  try {
    await body(PUT('/api/session/look', { body: wanted.value }))
    isKept.value = true
  } catch (error) {
    problem.tell(error)
  }
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="The look of the table"
    :model-value="true"
    width="560"
    @update:model-value="emit('close')"
  >
    <v-card class="slip-body">
      <h2>The look of the table</h2>
      <form class="form" @submit.prevent="apply">
        <fieldset>
          <legend class="soft">Its rows are</legend>
          <label v-for="each in LOOKS" :key="each.value"
            ><input v-model="look" type="radio" name="look" :value="each.value" /> {{ each.words }}</label
          >
        </fieldset>
        <fieldset>
          <legend class="soft">Row headers stand</legend>
          <label v-for="each in FORMS" :key="each.value"
            ><input v-model="rows" type="radio" name="rows" :value="each.value" /> {{ each.words }}</label
          >
          <label class="below"
            ><input v-model="repeats" type="checkbox" :disabled="rows !== 'levels'" /> naming outer members again in
            every row</label
          >
        </fieldset>
        <fieldset>
          <legend class="soft">While it scrolls, there stay</legend>
          <label><input v-model="holdsRows" type="checkbox" /> the row headers</label>
          <label><input v-model="holdsColumns" type="checkbox" /> the column headers</label>
        </fieldset>
        <div class="line">
          <span class="soft">Row headers are</span
          ><v-text-field
            v-model="width"
            type="number"
            min="40"
            max="800"
            placeholder="as needed"
            aria-label="Width of the row headers"
          /><span class="soft">pixels wide</span>
        </div>
        <footer>
          <v-btn :disabled="isKept" title="Analyses that you begin from now on look so" @click="keep">{{
            isKept ? 'Kept as your own' : 'Keep it as my own'
          }}</v-btn>
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn variant="flat" color="primary" type="submit">Dress it so</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../narrowing/form.css" />
<style scoped>
fieldset {
  display: grid;
  gap: 3px;
  border: 0;
}

legend {
  padding-bottom: 2px;
}

.below {
  padding-left: 21px;
}
</style>
