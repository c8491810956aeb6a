<script setup lang="ts">
// The same model as text: written here it is a step like any other; comments stay under the steps that come after.
import { yaml } from '@codemirror/lang-yaml'
import { defaultKeymap, history, historyKeymap, indentWithTab } from '@codemirror/commands'
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language'
import { lintGutter, setDiagnostics, type Diagnostic } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { EditorView, keymap, lineNumbers } from '@codemirror/view'
import { tags } from '@lezer/highlight'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { onBeforeRouteLeave, onBeforeRouteUpdate, useRouter, type RouteLocationNormalized } from 'vue-router'
import { ApiError, GET, PUT, body } from '@/api/client'
import { useProblem } from '@/shell/problem'
import { useShaping } from '../shaping'

interface Fault {
  place: string
  message: string
  hint: string
}

const shaping = useShaping()
const problem = useProblem()
const host = ref<HTMLElement | null>(null)
const before = ref('')
const text = ref('')
const wrong = ref('')
const faults = ref<Fault[]>([])
const isBusy = ref(false)
const isLoaded = ref(false)
/** Where somebody wants to go who has written what is not taken over. */
const leavingTo = ref('')
const router = useRouter()
const isChanged = computed(() => isLoaded.value && text.value !== before.value)
let view: EditorView | null = null

const colours = HighlightStyle.define([
  {
    tag: [tags.propertyName, tags.definition(tags.propertyName)],
    color: 'rgb(var(--v-theme-on-background))',
    fontWeight: '600',
  },
  { tag: [tags.string, tags.content, tags.number, tags.bool], color: 'rgb(var(--v-theme-primary))' },
  { tag: tags.comment, color: 'rgb(var(--v-theme-soft))', fontStyle: 'italic' },
  { tag: [tags.punctuation, tags.separator, tags.squareBracket, tags.brace], color: 'rgb(var(--v-theme-soft))' },
])

function state(doc: string): EditorState {
  return EditorState.create({
    doc,
    extensions: [
      lineNumbers(),
      history(),
      yaml(),
      syntaxHighlighting(colours),
      lintGutter(),
      keymap.of([
        { key: 'Mod-Enter', run: () => (void take(), true) },
        indentWithTab,
        ...defaultKeymap,
        ...historyKeymap,
      ]),
      EditorView.contentAttributes.of({ 'aria-label': 'The model’s document', spellcheck: 'false' }),
      EditorView.updateListener.of((update) => {
        if (update.docChanged) text.value = update.state.doc.toString()
      }),
    ],
  })
}

async function load(): Promise<void> {
  try {
    const found = (await body(GET('/api/modelling/{model}/text', { params: { path: shaping.path } }))).text
    before.value = found
    text.value = found
    isLoaded.value = true
    const top = view?.scrollDOM.scrollTop ?? 0
    view?.setState(state(found))
    view?.requestMeasure({ read: () => null, write: () => view && (view.scrollDOM.scrollTop = top) })
    faults.value = []
    wrong.value = ''
  } catch (error) {
    problem.tell(error)
  }
}

onMounted(() => {
  view = new EditorView({ parent: host.value!, state: state('') })
  view.scrollDOM.tabIndex = 0
  void load()
})
onBeforeUnmount(() => view?.destroy())
// A step that was taken elsewhere changes the text; what is being written is not lost by it.
watch(
  () => shaping.turn,
  () => !isBusy.value && !isChanged.value && void load(),
)
function stay(to: RouteLocationNormalized): boolean {
  if (!isChanged.value) return true
  leavingTo.value = to.fullPath
  return false
}
onBeforeRouteLeave(stay)
onBeforeRouteUpdate(stay)

function lineOf(fault: Fault): number | null {
  const found = /line (\d+)/.exec(fault.place)
  return found ? Number(found[1]) : null
}

function mark(): void {
  if (!view) return
  const doc = view.state.doc
  const found: Diagnostic[] = []
  for (const each of faults.value) {
    const line = lineOf(each)
    if (line === null || line > doc.lines) continue
    const at = doc.line(line)
    found.push({
      from: at.from + (at.text.length - at.text.trimStart().length),
      to: at.to,
      severity: 'error',
      message: `${each.message} ${each.hint}`,
    })
  }
  view.dispatch(setDiagnostics(view.state, found))
}

function goToLine(fault: Fault): void {
  const line = lineOf(fault)
  if (!view || line === null || line > view.state.doc.lines) return
  const at = view.state.doc.line(line)
  view.dispatch({ selection: { anchor: at.from }, effects: EditorView.scrollIntoView(at.from, { y: 'center' }) })
  view.focus()
}

async function take(): Promise<boolean> {
  if (!isChanged.value) return true
  isBusy.value = true
  wrong.value = ''
  faults.value = []
  try {
    const found = await body(
      PUT('/api/modelling/{model}/text', {
        params: { path: shaping.path },
        body: { text: text.value, shown: shaping.shown },
      }),
    )
    before.value = text.value
    shaping.put(found)
    void shaping.look()
    return true
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    wrong.value = `${error.message} ${error.hint}`
    faults.value = (error.details.faults as Fault[] | undefined) ?? []
    return false
  } finally {
    mark()
    isBusy.value = false
  }
}

async function go(isTaken: boolean): Promise<void> {
  const to = leavingTo.value
  leavingTo.value = ''
  if (isTaken && !(await take())) return
  if (!isTaken) text.value = before.value
  await router.push(to)
}
</script>

<template>
  <div class="text-room">
    <div class="tools">
      <span class="soft"
        >Analyses find things by their <code>name</code>; a <code>caption</code> may change freely. Comments stay.</span
      >
      <span class="space" />
      <template v-if="leavingTo">
        <span>What you wrote is not taken over.</span>
        <v-btn class="quiet-button" @click="go(true)">Take it over</v-btn>
        <v-btn class="quiet-button" @click="go(false)">Discard it</v-btn>
      </template>
      <template v-else-if="isChanged">
        <v-btn class="quiet-button" @click="load">Discard what I wrote</v-btn>
        <v-btn variant="flat" color="primary" height="26" title="Ctrl+Enter" :loading="isBusy" @click="take"
          >Take it over</v-btn
        >
      </template>
    </div>
    <div v-if="wrong" class="wrong" role="alert">
      {{ wrong }}
      <ul v-if="faults.length">
        <li v-for="fault in faults" :key="fault.place + fault.message">
          <button type="button" class="plain-button go" @click="goToLine(fault)">{{ fault.place }}</button>:
          {{ fault.message }} {{ fault.hint }}
        </li>
      </ul>
    </div>
    <div ref="host" class="editor" />
  </div>
</template>

<style scoped>
.text-room {
  display: flex;
  flex-direction: column;
}

.tools {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 34px;
  padding: 0 18px;
}

.space {
  flex: 1;
}

.wrong {
  max-height: 24vh;
  padding: 4px 18px;
  overflow: auto;
  background: rgb(var(--v-theme-saffron-tint));
}

.wrong ul {
  margin: 2px 0;
  padding-left: 18px;
}

.go {
  border-bottom: 1px solid currentcolor;
}

.editor {
  flex: 1;
  min-height: 0;
  border-top: 1px solid rgb(var(--v-theme-hair));
}

.editor :deep(.cm-editor) {
  height: 100%;
}

.editor :deep(.cm-scroller) {
  font:
    12.5px/19px ui-monospace,
    'DejaVu Sans Mono',
    monospace;
}

.editor :deep(.cm-gutters) {
  color: rgb(var(--v-theme-soft));
  background: rgb(var(--v-theme-background));
  border-right: 1px solid rgb(var(--v-theme-hair));
}

.editor :deep(.cm-content) {
  caret-color: rgb(var(--v-theme-on-background));
}

.editor :deep(.cm-cursor) {
  border-left-color: rgb(var(--v-theme-on-background));
}

.editor :deep(.cm-tooltip) {
  color: rgb(var(--v-theme-on-background));
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-rule));
}

.editor :deep(.cm-diagnostic-error) {
  border-left-color: rgb(var(--v-theme-saffron));
}
</style>
