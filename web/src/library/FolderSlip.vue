<script setup lang="ts">
// A folder's name, where it lies, and how analyses in it are called.
import { computed, ref } from 'vue'
import { ApiError, POST, PUT, body } from '@/api/client'
import type { Folder } from '@/api/types'
import { vFirstField } from '@/workspace/firstField'
import FolderField from './FolderField.vue'
import { folderOf } from './folderOf'
import { useLibrary } from './library'

const props = defineProps<{ folder: Folder | null; within: string | null }>()
const emit = defineEmits<{ close: []; made: [id: string] }>()
const library = useLibrary()
const PARTS = [
  { title: 'who made it', value: 'who' },
  { title: 'the folder', value: 'folder' },
  { title: 'what it shows', value: 'what' },
  { title: 'for what', value: 'where' },
  { title: 'when', value: 'when' },
] as const
const name = ref(props.folder?.name ?? '')
const place = ref(props.folder ? props.folder.parent : props.within)
const parts = ref([...(props.folder?.name_parts ?? [])])
const wrong = ref('')
const title = computed(() => (props.folder ? 'Change the folder' : 'A new folder'))

async function keep(): Promise<void> {
  if (!name.value.trim()) {
    wrong.value = 'Give it a name.'
    return
  }
  try {
    const asked = { name: name.value, parent: await folderOf(place.value), name_parts: parts.value }
    const kept = props.folder
      ? await body(PUT('/api/folders/{id}', { params: { path: { id: props.folder.id } }, body: asked }))
      : await body(POST('/api/folders', { body: asked }))
    await library.load()
    emit('made', kept.id)
    emit('close')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    wrong.value = `${error.message} ${error.hint}`
  }
}
</script>

<template>
  <v-dialog :aria-label="title" :model-value="true" width="460" @update:model-value="emit('close')">
    <v-card>
      <form class="paper" @submit.prevent="keep">
        <h2>{{ title }}</h2>
        <v-text-field v-model="name" label="Name" v-first-field />
        <FolderField v-model="place" label="Lies in" :without="folder?.id" />
        <v-select
          v-model="parts"
          label="New analyses in it are called by"
          :items="PARTS"
          multiple
          chips
          clearable
          hint="In the order in which you choose. Without any, by what they show and for what."
          persistent-hint
        />
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
