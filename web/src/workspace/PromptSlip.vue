<script setup lang="ts">
// A question that the analysis asks: one slip of paper, one answer.
import { computed, ref } from 'vue'
import type { Prompt } from '@/api/types'
import { useAsking } from './asking'
import { vFirstField } from './firstField'

const props = defineProps<{ prompt: Prompt }>()
const asking = useAsking()
const given = asking.present?.values ?? props.prompt.values ?? []
const text = ref(given.join(', '))
const wrong = ref('')
const hint = computed(() => {
  if (props.prompt.type === 'date') return 'A day, as 2025-12-31.'
  return props.prompt.type === 'number'
    ? 'A number, or several with commas between them.'
    : 'A text, or several with commas between them.'
})

function apply(): void {
  const parts = text.value
    .split(',')
    .map((each) => each.trim())
    .filter(Boolean)
  if (!parts.length && props.prompt.required) {
    wrong.value = 'It needs an answer.'
    return
  }
  if (props.prompt.type === 'number' && parts.some((each) => !Number.isFinite(Number(each)))) {
    wrong.value = 'Write digits, as in 10000 or 2.5.'
    return
  }
  if (props.prompt.type === 'date' && parts.some((each) => !/^\d{4}-\d{2}-\d{2}$/.test(each))) {
    wrong.value = 'Write a day as 2025-12-31.'
    return
  }
  void asking.answer(props.prompt.type === 'number' ? parts.map(Number) : parts)
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    :aria-label="prompt.caption"
    :model-value="true"
    width="420"
    @update:model-value="asking.close"
  >
    <v-card>
      <form class="paper" @submit.prevent="apply">
        <h2>{{ prompt.caption }}</h2>
        <v-text-field v-model="text" :aria-label="prompt.caption" :hint="hint" persistent-hint v-first-field />
        <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
        <footer>
          <v-btn @click="asking.close">Not now</v-btn>
          <v-btn variant="flat" color="primary" type="submit">Answer</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./keeping/slip.css" />
