<script setup lang="ts">
// Grants a model: in whole, or as far as one of its roles may see.
import { computed, ref } from 'vue'
import { POST, body } from '@/api/client'
import type { Administration } from '@/api/types'

const props = defineProps<{
  models: Administration['models']
  to: string
  given: { person?: string; group?: string }
  change: <T>(work: () => Promise<T>) => Promise<T | null>
}>()
const emit = defineEmits<{ close: [] }>()
const model = ref(props.models[0]?.name ?? '')
const role = ref('')
const models = computed(() => props.models.map((each) => ({ title: each.caption, value: each.name })))
const roles = computed(() => [
  { title: 'every record', value: '' },
  ...(props.models.find((each) => each.name === model.value)?.roles ?? []).map((each) => ({
    title: `as far as ${each.caption} may`,
    value: each.name,
  })),
])

async function grant(): Promise<void> {
  await props.change(() =>
    body(POST('/api/administration/grants', { body: { ...props.given, model: model.value, role: role.value } })),
  )
  emit('close')
}
</script>

<template>
  <v-dialog aria-label="Grant a model" :model-value="true" width="420" @update:model-value="emit('close')">
    <v-card>
      <form class="paper" @submit.prevent="grant">
        <h2>Grant a model to {{ to }}</h2>
        <v-select v-model="model" label="Model" :items="models" @update:model-value="role = ''" />
        <v-select v-model="role" label="Sees" :items="roles" />
        <footer>
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn type="submit" variant="flat" color="primary" :disabled="!model">Grant</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../workspace/keeping/slip.css" />
