<script setup lang="ts">
// Makes a filter a question: whoever opens the analysis is asked for it.
import { ref } from 'vue'
import { vFirstField } from '../firstField'
import { useWorkspace } from '../store'

const props = defineProps<{ at: number; words: string }>()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const caption = ref('')
const required = ref(true)
const many = ref(true)
const wrong = ref('')

function apply(): void {
  if (!caption.value.trim()) {
    wrong.value = 'Write what is asked, as in “Which depots?”.'
    return
  }
  void workspace.act({
    kind: 'ask_on_opening',
    at: props.at,
    caption: caption.value,
    required: required.value,
    many: many.value,
  })
  emit('close')
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="Ask on opening"
    :model-value="true"
    width="440"
    @update:model-value="emit('close')"
  >
    <v-card>
      <form class="paper" @submit.prevent="apply">
        <h2>Ask for it on opening</h2>
        <p class="sentence">{{ words }} is what is answered until somebody answers otherwise.</p>
        <v-text-field v-model="caption" label="The question" placeholder="Which depots?" v-first-field />
        <label><input v-model="many" type="checkbox" /> several may be answered</label>
        <label><input v-model="required" type="checkbox" /> it needs an answer</label>
        <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
        <footer>
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn variant="flat" color="primary" type="submit">Ask it</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../keeping/slip.css" />
