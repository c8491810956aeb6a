<script setup lang="ts">
// A measure of one's own, made at the right while the table stays in sight.
import { useDebounceFn } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { POST, body } from '@/api/client'
import type { MadeMeasure, Preview, ReadFormula } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { withPresent } from '../patterns'
import { useWorkspace } from '../store'
import { numberWriter } from '../table/format'
import { useThingMenu } from '../thingMenu'
import FormulaEditor from './FormulaEditor.vue'
import { useMaking } from './making'

const READ_AFTER = 120
const PATTERNS = [
  { value: '', title: 'as it fits' },
  { value: '#,##0', title: 'whole numbers' },
  { value: '#,##0.0', title: 'one decimal' },
  { value: '#,##0.00', title: 'two decimals' },
  { value: '#,##0.00;(#,##0.00)', title: 'two decimals, negatives in brackets' },
  { value: '0.0 %', title: 'per cent' },
]
const MORE = [
  { value: '', title: 'neither good nor bad' },
  { value: 'more', title: 'favourable' },
  { value: 'less', title: 'unfavourable' },
]
const making = useMaking()
const workspace = useWorkspace()
const problem = useProblem()
const menu = useThingMenu()
const editor = ref<InstanceType<typeof FormulaEditor> | null>(null)
const own = making.changed?.made
const text = ref(making.begun)
const caption = ref(own?.caption ?? '')
const pattern = ref(own?.format ?? '')
const favourable = ref<'' | 'more' | 'less'>(own?.favourable ?? '')
const description = ref(own?.description ?? '')
const read = shallowRef<ReadFormula | null>(null)
const preview = shallowRef<Preview | null>(null)
const refusal = ref('')
const isReading = ref(false)
let asked = 0

const fault = computed(() => read.value?.fault ?? null)
/** Somebody is writing on: what is wrong at the end may not stay so. */
const isUnfinished = computed(
  () => !!fault.value && !fault.value.fixes.length && fault.value.end >= text.value.trimEnd().length,
)
const isBlank = computed(() => !text.value.trim())
const isReady = computed(
  () => !isBlank.value && (isReading.value || !!read.value?.expression) && caption.value.trim() !== '',
)
const patterns = computed(() => withPresent(PATTERNS, pattern.value))
const write = computed(() => (read.value?.format ? numberWriter(read.value.format) : String))
const made = computed<MadeMeasure | null>(() => {
  const formula = read.value?.expression
  if (!formula) return null
  return {
    name: own?.name ?? '',
    caption: caption.value.trim(),
    formula,
    format: pattern.value || null,
    favourable: favourable.value || null,
    folder: own?.folder ?? '',
    description: description.value.trim(),
  }
})

async function readNow(): Promise<void> {
  const document = workspace.document
  const mine = ++asked
  if (!document || isBlank.value) {
    read.value = preview.value = null
    isReading.value = false
    return
  }
  const path = { model: document.model }
  try {
    const found = await body(
      POST('/api/models/{model}/formula/read', {
        params: { path },
        body: { document, text: text.value, name: own?.name ?? '' },
      }),
    )
    if (mine !== asked) return
    read.value = found
    isReading.value = false
    if (!made.value) return
    const looked = { document, made: made.value, row: menu.cell?.row ?? -1, column: menu.cell?.column ?? -1 }
    const shown = await body(POST('/api/models/{model}/formula/preview', { params: { path }, body: looked }))
    if (mine !== asked) return
    preview.value = shown
    refusal.value = ''
  } catch (error) {
    if (mine !== asked) return
    isReading.value = false
    preview.value = null
    refusal.value = error instanceof Error ? error.message : ''
  }
}

/** A header's own caption, without what it stands in. */
function lastOf(caption: string): string {
  return caption.split(' › ').at(-1) ?? caption
}

const readSoon = useDebounceFn(readNow, READ_AFTER)

function change(now: string): void {
  text.value = now
  isReading.value = true
  void readSoon()
}

async function put(): Promise<void> {
  // What was written last counts, though it may not have been read yet, or be read by another just now.
  while (isReading.value) await readNow()
  if (!isReady.value || !made.value) return
  const gesture = own
    ? ({ kind: 'change_made', made: made.value } as const)
    : ({ kind: 'make_measure', made: made.value, is_put: true } as const)
  const before = workspace.shownStep
  workspace.act(gesture).then(
    () => workspace.shownStep !== before && making.close(),
    (error: unknown) => problem.tell(error),
  )
}

// What the table shows decides what is seen here.
watch([() => workspace.answered, () => menu.cell], () => void readNow())
onMounted(() => {
  making.insert = (name) => editor.value?.insert(name)
  void readNow()
})
onBeforeUnmount(() => (making.insert = null))
</script>

<template>
  <aside class="making" aria-label="A measure of your own">
    <h2>{{ own ? own.caption : 'A measure of your own' }}</h2>
    <p class="soft aloud">
      <template v-if="read?.aloud">read aloud: {{ read.aloud }}</template>
      <template v-else>Write it, or point at headers and measures.</template>
    </p>
    <FormulaEditor ref="editor" :text="text" :fault="fault" @change="change" @done="put" />
    <div v-if="fault && !isBlank" class="fault" :class="{ unfinished: isUnfinished }" role="status">
      <p>{{ fault.message }} {{ fault.hint }}</p>
      <!-- A fix is of the text as it was read: what was written since would be lost by it. -->
      <button
        v-for="fix in fault.fixes"
        :key="fix.caption"
        type="button"
        class="fix"
        :disabled="isReading"
        @click="change(fix.text)"
      >
        {{ fix.caption }}: <code>{{ fix.text }}</code>
      </button>
    </div>
    <p v-else-if="refusal" class="fault" role="status">{{ refusal }}</p>
    <table v-if="preview && !fault" class="preview">
      <thead>
        <tr>
          <th scope="col">Here, so far</th>
          <th v-for="(each, at) in preview.columns" :key="at" scope="col" class="figure" :title="each">
            {{ lastOf(each) }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(row, at) in preview.rows" :key="at" :class="{ total: row.is_total, here: row.is_here }">
          <th scope="row" :title="row.caption">{{ lastOf(row.caption) }}</th>
          <td
            v-for="(value, place) in row.values"
            :key="place"
            class="figure"
            :class="{ here: row.is_here && place === preview.here }"
          >
            {{ write(value) }}
          </td>
        </tr>
      </tbody>
    </table>
    <form class="fields" @submit.prevent="put">
      <label for="made-name">Named</label>
      <input id="made-name" v-model="caption" class="field" placeholder="Net per vehicle day" maxlength="120" />
      <span>Counted in</span>
      <span class="field still">{{ read?.expression ? read.unit || 'plain numbers' : '–' }}</span>
      <label for="made-written">Written</label>
      <select id="made-written" v-model="pattern" class="field" @change="readNow">
        <option v-for="each in patterns" :key="each.value" :value="each.value">{{ each.title }}</option>
      </select>
      <label for="made-more">More is</label>
      <select id="made-more" v-model="favourable" class="field">
        <option v-for="each in MORE" :key="each.value" :value="each.value">{{ each.title }}</option>
      </select>
      <label for="made-about">About</label>
      <input
        id="made-about"
        v-model="description"
        class="field"
        placeholder="what it says, for colleagues"
        maxlength="400"
      />
      <span>Kept in</span>
      <span class="field still">this analysis</span>
      <template v-if="making.changed?.used_by.length">
        <span>Used by</span>
        <span class="field still">{{ making.changed.used_by.join(', ') }}</span>
      </template>
      <footer>
        <v-btn @click="making.close">Cancel</v-btn>
        <v-btn
          variant="flat"
          color="primary"
          type="submit"
          :disabled="!isReady"
          :title="caption.trim() ? '' : 'Give it a name first'"
          >{{ own ? 'Change it' : 'Put it in the table' }}</v-btn
        >
      </footer>
    </form>
  </aside>
</template>

<style scoped src="../panel.css" />
<style scoped>
.making {
  width: 344px;
  padding-right: 18px;
  overflow: auto;
}

p {
  margin: 0;
}

.aloud {
  margin-top: -6px;
}

.unfinished p {
  color: rgb(var(--v-theme-soft));
}

.fix {
  display: block;
  width: 100%;
  margin-top: 4px;
  padding: 3px 8px;
  font: inherit;
  color: inherit;
  text-align: left;
  cursor: pointer;
  background: rgb(var(--v-theme-saffron-tint));
  border: 0;
}

.fix code {
  font-size: 12px;
}

.preview {
  width: 100%;
  font-size: 12px;
  background: rgb(var(--v-theme-surface));
  border-collapse: collapse;
}

.preview th,
.preview td {
  padding: 1px 8px;
  font-weight: 400;
  text-align: left;
}

.preview th {
  max-width: 130px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.preview thead th {
  font-weight: 600;
  color: rgb(var(--v-theme-soft));
  border-bottom: 1px solid rgb(var(--v-theme-primary));
}

.preview .figure {
  text-align: right;
}

.preview .total > * {
  font-weight: 600;
  border-top: 1px solid rgb(var(--v-theme-rule));
}

.preview td.here {
  background: rgb(var(--v-theme-saffron-tint));
}

.fields {
  display: grid;
  grid-template-columns: 74px 1fr;
  gap: 6px 8px;
  align-items: baseline;
  margin-top: 4px;
}

.fields > label,
.fields > span:not(.field) {
  color: rgb(var(--v-theme-soft));
}

.field {
  width: 100%;
}

.field.still {
  min-height: 25px;
}

footer {
  grid-column: 1 / -1;
  margin-top: 8px;
}
</style>
