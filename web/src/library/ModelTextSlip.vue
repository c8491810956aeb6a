<script setup lang="ts">
// A model's document as text: read, mended, and taken over once it has no fault and fits its files.
import { computed, onMounted, ref } from 'vue'
import { ApiError, GET, PUT, body } from '@/api/client'
import { useNotice } from '@/shell/notice'
import { useProblem } from '@/shell/problem'
import { useWaiting } from '@/workspace/waiting'

interface Fault {
  place: string
  message: string
  hint: string
}

const props = defineProps<{ model: string }>()
const emit = defineEmits<{ close: []; changed: [] }>()
const problem = useProblem()
const notice = useNotice()
const { waiting, follow, takeBack } = useWaiting()
const params = { path: { model: props.model } }
const before = ref('')
const text = ref('')
const wrong = ref('')
const faults = ref<Fault[]>([])
const isBusy = ref(false)
const isChanged = computed(() => text.value !== before.value)

onMounted(async () => {
  try {
    before.value = (await body(GET('/api/bringing/models/{model}/document', { params }))).text
    text.value = before.value
  } catch (error) {
    problem.tell(error)
    emit('close')
  }
})

async function take(): Promise<void> {
  wrong.value = ''
  faults.value = []
  isBusy.value = true
  const asked = { text: text.value, before: before.value }
  try {
    await follow((question) => body(PUT('/api/bringing/models/{model}/document', { params: { ...params, query: { question } }, body: asked })), 'Reading the files by it')
    notice.tell('The model is read by what you wrote.')
    emit('changed')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    if (error.code === 'cancelled') return
    wrong.value = `${error.message} ${error.hint}`
    faults.value = (error.details.faults as Fault[] | undefined) ?? []
  } finally {
    isBusy.value = false
  }
}
</script>

<template>
  <v-dialog aria-label="The model as text" :model-value="true" width="920" persistent @keydown.esc="!isChanged && emit('close')">
    <v-card>
      <form class="paper" @submit.prevent="take">
        <h2>The model as text</h2>
        <textarea v-model="text" class="text" aria-label="The model's document" spellcheck="false" wrap="off" />
        <div v-if="wrong" class="wrong" role="alert">
          {{ wrong }}
          <ul v-if="faults.length">
            <li v-for="fault in faults" :key="fault.place + fault.message">
              <strong>{{ fault.place }}:</strong> {{ fault.message }} {{ fault.hint }}
            </li>
          </ul>
        </div>
        <p v-else class="soft note">What nobody has confirmed stands at the end, under <code>assumed</code>: take away what is right. Analyses find things by their <code>name</code>; a <code>caption</code> may change freely.</p>
        <footer>
          <span v-if="waiting" class="soft" role="status">{{ waiting.doing }}{{ waiting.words }}</span>
          <v-btn v-if="isBusy" @click="takeBack">Take it back</v-btn>
          <v-btn v-else @click="emit('close')">{{ isChanged ? 'Discard what I changed' : 'Close' }}</v-btn>
          <v-btn type="submit" variant="flat" color="primary" :disabled="!isChanged" :loading="isBusy">Take it over</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../workspace/keeping/slip.css" />
<style scoped>
.text {
  width: 100%;
  height: 56vh;
  padding: 8px 10px;
  font: 12.5px/18px ui-monospace, 'DejaVu Sans Mono', monospace;
  resize: vertical;
  color: inherit;
  white-space: pre;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-rule));
}

ul {
  max-height: 16vh;
  margin: 4px 0 0;
  padding-left: 18px;
  overflow-y: auto;
}
</style>
