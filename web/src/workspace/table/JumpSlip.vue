<script setup lang="ts">
// Typing in the table finds the next header that begins with, or holds, what is typed.
import { onMounted, ref } from 'vue'
import { GET, body } from '@/api/client'

const props = defineProps<{ begun: string; handle: string; from: number }>()
const emit = defineEmits<{ land: [axis: 'rows' | 'columns', line: number]; close: [] }>()
const words = ref(props.begun)
const field = ref<HTMLInputElement | null>(null)
const found = ref<{ axis: 'rows' | 'columns'; line: number; caption: string } | null>(null)
const isAsked = ref(false)
let asked = 0

async function find(from: number): Promise<void> {
  const mine = ++asked
  const query = { words: words.value, start: Math.max(from, 0) }
  const reply = words.value.trim()
    ? await body(GET('/api/answers/{handle}/jump', { params: { path: { handle: props.handle }, query } })).catch(
        () => null,
      )
    : null
  if (mine !== asked) return
  found.value = reply?.line === null || !reply ? null : { axis: reply.axis, line: reply.line!, caption: reply.caption }
  isAsked.value = true
}

function next(): void {
  if (found.value?.axis === 'rows') void find(found.value.line + 1)
}

onMounted(() => {
  field.value?.focus()
  void find(props.from)
})
</script>

<template>
  <form class="jump" @submit.prevent="found && emit('land', found.axis, found.line)" @keydown.esc.stop="emit('close')">
    <label
      >Jump to
      <input
        ref="field"
        v-model="words"
        class="field"
        aria-label="Jump to a member"
        @input="find(from)"
        @keydown.down.prevent="next"
    /></label>
    <span class="soft" role="status">{{
      found ? found.caption : isAsked && words.trim() ? 'No header is called that.' : ''
    }}</span>
  </form>
</template>

<style scoped>
.jump {
  position: absolute;
  inset: 8px 16px auto auto;
  z-index: 6;
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 6px 12px;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-rule));
  box-shadow: 0 6px 20px rgb(0 0 0 / 14%);
}

.field {
  width: 160px;
  padding: 2px 6px;
  font: inherit;
  color: inherit;
  background: transparent;
  border: 1px solid rgb(var(--v-theme-rule));
  border-radius: 2px;
}
</style>
