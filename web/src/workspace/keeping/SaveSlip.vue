<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { ApiError, GET, POST, body } from '@/api/client'
import type { LibraryEntry } from '@/api/types'
import { vFirstField } from '../firstField'
import { useWorkspace } from '../store'

const props = defineProps<{ asCopy: boolean }>()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const opened = workspace.draft?.analysis
const savesOver = computed(() => !props.asCopy && !!opened?.may_change)
const name = ref(savesOver.value ? opened!.name : opened ? `${opened.name}, copy` : (workspace.shown?.name ?? ''))
const description = ref(opened?.description ?? '')
const folder = ref<string | null>(savesOver.value ? opened!.folder : '')
const mine = ref<LibraryEntry[]>([])
const folders = computed(() => [...new Set(mine.value.map((entry) => entry.folder).filter(Boolean))])
/** Another analysis of mine that is called so and lies there already. */
const isTaken = computed(() =>
  mine.value.some(
    (entry) =>
      entry.name.toLowerCase() === name.value.trim().toLowerCase() && entry.folder === (folder.value ?? '').trim() && !(savesOver.value && entry.id === opened?.id),
  ),
)
const wrong = ref('')
const isSaving = ref(false)
const title = computed(() => (savesOver.value ? 'Save' : opened ? 'Save a copy' : 'Save as an analysis'))

onMounted(async () => {
  const library = await body(GET('/api/library')).catch(() => null)
  mine.value = library?.mine ?? []
})

async function save(): Promise<void> {
  if (!name.value.trim()) {
    wrong.value = 'Give it a name.'
    return
  }
  if (!workspace.draft || !workspace.document || isSaving.value) return
  isSaving.value = true
  const step = workspace.shownStep
  try {
    const saved = await body(
      POST('/api/analyses', {
        body: {
          draft: workspace.draft.id, step, document: workspace.document, name: name.value,
          description: description.value, folder: folder.value ?? '',
          analysis: savesOver.value ? opened!.id : null, version: savesOver.value ? opened!.version : null,
        },
      }),
    )
    workspace.noteSaved(saved, step)
    emit('close')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    wrong.value = `${error.message} ${error.hint}`
  } finally {
    isSaving.value = false
  }
}
</script>

<template>
  <v-dialog class="beside" scrim="transparent" :aria-label="title" :model-value="true" width="460" @update:model-value="emit('close')">
    <v-card>
      <form class="paper" @submit.prevent="save">
        <h2>{{ title }}</h2>
        <p class="sentence">{{ workspace.shown?.text }}</p>
        <v-text-field v-model="name" label="Name" v-first-field />
        <v-textarea v-model="description" label="Description" rows="2" auto-grow />
        <v-combobox v-model="folder" label="Folder" :items="folders" />
        <p v-if="isTaken" class="soft note" role="status">You have an analysis of this name {{ folder ? `in “${folder}”` : 'without a folder' }}: there will be two.</p>
        <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
        <p class="soft note">The structure is kept, not the numbers: it opens on fresh data.</p>
        <footer>
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn type="submit" variant="flat" color="primary" :loading="isSaving">{{ title }}</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./slip.css" />
