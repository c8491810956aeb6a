<script setup lang="ts">
// The sentence, written by hand: read as it is typed, with what could go on, and what is not understood pointed at.
import { refDebounced } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { POST, body } from '@/api/client'
import type { Reading } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { focusOn } from '../places'
import { useWorkspace } from '../store'

const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const problem = useProblem()
const field = ref<HTMLTextAreaElement | null>(null)
const text = ref('')
const settled = refDebounced(text, 60)
const reading = ref<Reading | null>(null)
const chosen = ref(-1)
const model = computed(() => workspace.draft?.model ?? '')
const completions = computed(() => reading.value?.completions ?? [])
const fault = computed(() => (reading.value?.fault && !completions.value.length ? reading.value.fault : null))
let asked = 0

onMounted(async () => {
  field.value?.focus()
  if (!workspace.document) return
  const written = await body(
    POST('/api/models/{model}/words/write', { params: { path: { model: model.value } }, body: workspace.document }),
  ).catch((error: unknown) => {
    problem.tell(error)
    return null
  })
  // Whoever has begun to write already is not written over.
  if (!written || text.value) return
  text.value = written.text
  await nextTick()
  field.value?.select()
})

async function read(of: string): Promise<Reading | null> {
  return body(
    POST('/api/models/{model}/words/read', {
      params: { path: { model: model.value } },
      body: { text: of, document: workspace.document },
    }),
  ).catch((error: unknown) => {
    problem.tell(error)
    return null
  })
}

watch(settled, async (now) => {
  const mine = ++asked
  const found = await read(now)
  if (mine !== asked || !found) return
  reading.value = found
  chosen.value = -1
})

/** What a completion adds: from the word that is begun, or behind the whole text where none is. */
function ending(completion: string): string {
  const whole = `${text.value.trimEnd()} `
  if (completion.toLowerCase().startsWith(whole.toLowerCase())) return completion.slice(whole.length)
  const kept = text.value.slice(0, text.value.lastIndexOf(' ') + 1)
  return completion.toLowerCase().startsWith(kept.toLowerCase()) ? completion.slice(kept.length) : completion
}

function complete(completion: string): void {
  text.value = `${completion} `
  field.value?.focus()
}

function replaceWrong(near: string): void {
  const found = reading.value?.fault
  if (!found) return
  text.value = text.value.slice(0, found.start) + near + text.value.slice(found.end)
  field.value?.focus()
}

let written = ''

/** Once what stands here is asked, maybe when it was tried again, there is nothing to write any more. */
watch(
  () => workspace.shownStep,
  () => {
    if (text.value !== written) return
    emit('close')
    focusOn(',')
  },
)

async function apply(): Promise<void> {
  const found = await read(text.value)
  if (!found) return
  reading.value = found
  if (!found.question || found.refusal) return
  written = text.value
  await workspace.act({
    kind: 'rewrite',
    question: found.question,
    levels_seen: found.levels_seen,
    numbers: found.numbers,
  })
  field.value?.focus() // what was refused, or could not be sent, is still there to be mended
}

function key(event: KeyboardEvent): void {
  const count = completions.value.length
  if (event.key === 'Escape') {
    event.stopPropagation()
    emit('close')
  } else if (event.key === 'ArrowDown' && count) {
    event.preventDefault()
    chosen.value = (chosen.value + 1) % count
  } else if (event.key === 'ArrowUp' && count) {
    event.preventDefault()
    chosen.value = (chosen.value - 1 + count) % count
  } else if (event.key === 'Tab' && count && !event.shiftKey) {
    event.preventDefault()
    complete(completions.value[Math.max(chosen.value, 0)]!)
  } else if (event.key === 'Enter' && !event.shiftKey) {
    event.preventDefault()
    if (chosen.value >= 0) complete(completions.value[chosen.value]!)
    else void apply()
  }
}
</script>

<template>
  <section class="write" aria-label="Write the sentence">
    <textarea
      ref="field"
      v-model="text"
      class="field"
      rows="2"
      spellcheck="false"
      aria-label="The sentence in words"
      aria-autocomplete="list"
      aria-controls="completions"
      :aria-activedescendant="chosen >= 0 ? `completion-${chosen}` : undefined"
      placeholder="boardings by mode against quarter for 2025 without ferry"
      @keydown="key"
    />
    <p class="line" role="status">
      <template v-if="fault">
        <span class="wrong">{{ fault.message }}</span>
        <template v-if="fault.near.length">
          Is it
          <button
            v-for="near in fault.near"
            :key="near"
            type="button"
            class="plain-button near"
            @click="replaceWrong(near)"
          >
            {{ near }}
          </button>
          ?
        </template>
      </template>
      <span v-else-if="reading?.refusal" class="wrong">{{ reading.refusal }}</span>
      <span v-else-if="reading?.question" class="soft">Enter asks it. Esc leaves the report as it is.</span>
      <span v-else class="soft">Measures, then “by”, “against”, “for”, “without”.</span>
    </p>
    <ul v-if="completions.length" id="completions" class="completions" role="listbox" aria-label="What could go on">
      <li
        v-for="(completion, place) in completions"
        :id="`completion-${place}`"
        :key="completion"
        role="option"
        :aria-selected="place === chosen"
        :class="{ chosen: place === chosen }"
        @mousedown.prevent="complete(completion)"
      >
        {{ ending(completion) }}
      </li>
    </ul>
  </section>
</template>

<style scoped>
.write {
  padding: 8px 18px;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgb(var(--v-theme-rule));
}

.field {
  width: 100%;
  padding: 4px 8px;
  font: 400 19px/28px var(--serif);
  color: inherit;
  resize: none;
  outline: none;
  background: transparent;
  border: 1px solid rgb(var(--v-theme-saffron));
  border-radius: 2px;
}

.line {
  margin: 2px 0 0;
}

.wrong {
  color: rgb(var(--v-theme-error));
}

.near {
  margin: 0 4px;
  text-decoration: underline;
  text-underline-offset: 2px;
}

.completions {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
}

li {
  padding: 0 8px;
  cursor: pointer;
  border: 1px solid rgb(var(--v-theme-rule));
  border-radius: 2px;
}

.chosen {
  background: rgb(var(--v-theme-saffron-tint));
  border-color: rgb(var(--v-theme-saffron));
}
</style>
