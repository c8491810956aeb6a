<script setup lang="ts">
// Leaves something out once it was asked what goes with it.
import { ref } from 'vue'

defineProps<{ words: string; goes: string }>()
const emit = defineEmits<{ leave: [] }>()
const isAsked = ref(false)

function leave(): void {
  isAsked.value = false
  emit('leave')
}
</script>

<template>
  <div v-if="isAsked" class="asked" role="alert">
    <p>{{ goes }}</p>
    <div class="row">
      <button type="button" class="plain-button go" @click="leave">Leave it out</button
      ><button type="button" class="plain-button not" @click="isAsked = false">Keep it</button>
    </div>
  </div>
  <button v-else type="button" class="plain-button not" @click="isAsked = true">{{ words }}</button>
</template>

<style scoped src="./fields.css" />
<style scoped>
.asked {
  padding: 6px 8px;
  background: rgb(var(--v-theme-saffron-tint));
}

p {
  margin: 0;
}

.row {
  display: flex;
  gap: 14px;
}
</style>
