<script setup lang="ts">
// Where a formula is written: the words and names that could stand at the cursor come from the server.
import {
  acceptCompletion,
  autocompletion,
  completionKeymap,
  startCompletion,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
import { EditorState, StateEffect, StateField } from '@codemirror/state'
import { Decoration, EditorView, keymap, placeholder, type DecorationSet } from '@codemirror/view'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { POST, body } from '@/api/client'
import type { FormulaFault } from '@/api/types'
import { useWorkspace } from '../store'
import { formulaLanguage } from './language'

const props = defineProps<{ text: string; fault: FormulaFault | null }>()
const emit = defineEmits<{ change: [text: string]; done: [] }>()
const workspace = useWorkspace()
const host = ref<HTMLElement | null>(null)
let view: EditorView | null = null

const setFault = StateEffect.define<FormulaFault | null>()
const faultMark = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(marks, change) {
    let now = marks.map(change.changes)
    for (const effect of change.effects) {
      if (!effect.is(setFault)) continue
      const end = change.state.doc.length
      const from = Math.min(effect.value?.start ?? 0, Math.max(end - 1, 0))
      const to = Math.min(effect.value?.end ?? 0, end)
      now =
        effect.value && to > from
          ? Decoration.set(Decoration.mark({ class: 'fault' }).range(from, to))
          : Decoration.none
    }
    return now
  },
  provide: (field) => EditorView.decorations.from(field),
})

async function complete(context: CompletionContext): Promise<CompletionResult | null> {
  const document = workspace.document
  const before = context.state.sliceDoc(0, context.pos)
  const isInQuotes = before.split('"').length % 2 === 0
  if (!document || (!context.explicit && !isInQuotes && !/[\p{L}\s=(,]$/u.test(before))) return null
  const asked = { document, text: context.state.doc.toString(), cursor: context.pos, name: '' }
  const found = await body(
    POST('/api/models/{model}/formula/complete', { params: { path: { model: document.model } }, body: asked }),
  )
  if (!found.found.length) return null
  return {
    from: found.start,
    filter: false,
    options: found.found.map((each) => ({
      label: each.caption,
      detail: each.note,
      type: each.kind,
      apply: (target: EditorView, _: unknown, from: number, to: number) => put(target, each.text, from, to),
    })),
  }
}

/** A name that was begun in quotes may have its closing quote already. */
function put(target: EditorView, text: string, from: number, to: number): void {
  const after = target.state.sliceDoc(to, to + 1)
  const end = text.endsWith('"') && after === '"' ? to + 1 : to
  target.dispatch({ changes: { from, to: end, insert: text }, selection: { anchor: from + text.length } })
  if (text.endsWith(' ')) startCompletion(target)
}

/** Puts a name in at the cursor, apart from what stands beside it. */
function insert(text: string): void {
  if (!view) return
  const { from, to } = view.state.selection.main
  const before = view.state.sliceDoc(Math.max(from - 1, 0), from)
  const spaced = before && !/[\s(]/.test(before) ? ` ${text}` : text
  view.dispatch({ changes: { from, to, insert: spaced }, selection: { anchor: from + spaced.length } })
  view.focus()
}

onMounted(() => {
  view = new EditorView({
    parent: host.value!,
    state: EditorState.create({
      doc: props.text,
      selection: { anchor: props.text.length },
      extensions: [
        history(),
        keymap.of([
          { key: 'Tab', run: acceptCompletion },
          { key: 'Mod-Enter', run: () => (emit('done'), true) },
          ...completionKeymap,
          ...defaultKeymap,
          ...historyKeymap,
        ]),
        autocompletion({ override: [complete], icons: false, activateOnTypingDelay: 60 }),
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ 'aria-label': 'Formula', spellcheck: 'false' }),
        placeholder('"Fare revenue" / "Boardings"'),
        formulaLanguage,
        faultMark,
        EditorView.updateListener.of((update) => update.docChanged && emit('change', update.state.doc.toString())),
      ],
    }),
  })
  view.focus()
})

onBeforeUnmount(() => view?.destroy())

watch(
  () => props.fault,
  (fault) => view?.dispatch({ effects: setFault.of(fault) }),
)
watch(
  () => props.text,
  (text) => {
    if (view && text !== view.state.doc.toString())
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text } })
  },
)

defineExpose({ insert })
</script>

<template>
  <div ref="host" class="editor" />
</template>

<style scoped>
.editor {
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-primary));
}

.editor :deep(.cm-editor) {
  min-height: 66px;
  max-height: 190px;
  font-size: 13px;
  color: inherit;
}

.editor :deep(.cm-editor.cm-focused) {
  outline: 2px solid rgb(var(--v-theme-secondary));
}

.editor :deep(.cm-scroller) {
  font-family: ui-monospace, 'DejaVu Sans Mono', monospace;
  line-height: 22px;
}

.editor :deep(.cm-content) {
  padding: 6px 4px;
  caret-color: rgb(var(--v-theme-primary));
}

.editor :deep(.cm-cursor) {
  border-left-color: rgb(var(--v-theme-primary));
}

.editor :deep(.cm-placeholder) {
  color: rgb(var(--v-theme-soft));
}

.editor :deep(.cm-selectionBackground),
.editor :deep(.cm-focused .cm-selectionBackground) {
  background: rgb(var(--v-theme-saffron-tint)) !important;
}

.editor :deep(.fault) {
  text-decoration: underline wavy rgb(var(--v-theme-error)) 1px;
  text-underline-offset: 3px;
}

.editor :deep(.cm-tooltip) {
  z-index: 5;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-rule));
  box-shadow: 0 4px 14px rgb(0 0 0 / 16%);
}

.editor :deep(.cm-tooltip-autocomplete > ul) {
  max-height: 128px;
  font: 13px/20px var(--sans);
}

.editor :deep(.cm-tooltip-autocomplete > ul > li) {
  display: flex;
  gap: 10px;
  padding: 2px 10px;
  line-height: 20px;
}

.editor :deep(.cm-tooltip-autocomplete > ul > li[aria-selected]) {
  color: inherit;
  background: rgb(var(--v-theme-saffron-tint));
}

.editor :deep(.cm-completionLabel) {
  flex: 1;
}

.editor :deep(.cm-completionDetail) {
  margin: 0;
  font-size: 12px;
  font-style: normal;
  color: rgb(var(--v-theme-soft));
}
</style>
