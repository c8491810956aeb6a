<script setup lang="ts">
import { ref } from 'vue'
import { ApiError, PUT, body } from '@/api/client'
import type { LibraryEntry } from '@/api/types'
import { vFirstField } from '@/workspace/firstField'
import FolderField from './FolderField.vue'
import { folderOf } from './folderOf'
import { useLibrary } from './library'

const props = defineProps<{ entry: LibraryEntry }>()
const emit = defineEmits<{ close: [] }>()
const library = useLibrary()
const name = ref(props.entry.name)
const description = ref(props.entry.description)
const folder = ref(props.entry.folder)
const wrong = ref('')

async function rename(): Promise<void> {
  if (!name.value.trim()) {
    wrong.value = 'Give it a name.'
    return
  }
  try {
    const words = { name: name.value, description: description.value, folder: await folderOf(folder.value) }
    await body(PUT('/api/analyses/{id}/words', { params: { path: { id: props.entry.id } }, body: words }))
    await library.load()
    emit('close')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    wrong.value = `${error.message} ${error.hint}`
  }
}
</script>

<template>
  <v-dialog aria-label="Rename or move" :model-value="true" width="460" @update:model-value="emit('close')">
    <v-card>
      <form class="paper" @submit.prevent="rename">
        <h2>Rename or move</h2>
        <p class="sentence">{{ entry.sentence }}</p>
        <v-text-field v-model="name" label="Name" v-first-field />
        <v-textarea v-model="description" label="Description" rows="2" auto-grow />
        <FolderField v-model="folder" />
        <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
        <footer>
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn type="submit" variant="flat" color="primary">Keep</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../workspace/keeping/slip.css" />
