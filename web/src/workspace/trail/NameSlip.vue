<script setup lang="ts">
import { ref } from 'vue'
import { vFirstField } from '../firstField'
import { useWorkspace } from '../store'
import type { Step } from './tree'

const props = defineProps<{ step: Step }>()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const name = ref(props.step.name)

function apply(): void {
  void workspace.nameStep(props.step.id, name.value)
  emit('close')
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="Name a step"
    :model-value="true"
    width="400"
    @update:model-value="emit('close')"
  >
    <v-card>
      <form class="paper" @submit.prevent="apply">
        <h2>What is this step called?</h2>
        <v-text-field
          v-model="name"
          :aria-label="`Name of the step ${step.words}`"
          :placeholder="step.words"
          maxlength="200"
          v-first-field
        />
        <footer>
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn variant="flat" color="primary" type="submit">Name it</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../keeping/slip.css" />
