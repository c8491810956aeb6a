<script setup lang="ts">
// Somebody saved while this was open: what they changed, and the choice.
import type { Version } from '@/api/types'
import { changeWords, whenSaid } from '@/library/entries'

defineProps<{ name: string; since: Version[]; isSaving: boolean }>()
const emit = defineEmits<{ close: []; look: []; copy: []; over: [] }>()
</script>

<template>
  <div class="paper">
    <h2>“{{ name }}” was saved since you opened it</h2>
    <div role="alert">
      <div v-for="version in since" :key="version.number" class="since">
        <strong>{{ version.saved_by ?? 'Somebody' }}</strong>, {{ whenSaid(version.saved_at) }}:
        {{ changeWords(version.changes) || 'nothing that the sentence tells' }}
      </div>
    </div>
    <p class="soft note">
      Nothing was overwritten. Whatever you choose, theirs stays among its versions, and yours on your trail.
    </p>
    <footer>
      <v-btn @click="emit('close')">Cancel</v-btn>
      <v-btn @click="emit('look')">Look at theirs</v-btn>
      <v-btn @click="emit('copy')">Save mine as a copy</v-btn>
      <v-btn variant="flat" color="primary" :loading="isSaving" @click="emit('over')">Save mine over it</v-btn>
    </footer>
  </div>
</template>

<style scoped src="./slip.css" />
<style scoped>
.since {
  padding: 4px 0;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}
</style>
