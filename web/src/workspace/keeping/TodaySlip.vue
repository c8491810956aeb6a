<script setup lang="ts">
// Frozen numbers beside those of today, as far as who looks may see today's.
import { onMounted, shallowRef } from 'vue'
import { POST, body } from '@/api/client'
import type { HeldAgainstToday } from '@/api/types'
import { daySaid } from '@/library/entries'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import ChangedNumbers from '../trail/ChangedNumbers.vue'

const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const problem = useProblem()
const held = shallowRef<HeldAgainstToday | null>(null)

onMounted(async () => {
  if (!workspace.draft || !workspace.document) return
  try {
    held.value = await body(
      POST('/api/drafts/{id}/today', {
        params: { path: { id: workspace.draft.id } },
        body: { document: workspace.document },
      }),
    )
  } catch (error) {
    problem.tell(error)
    emit('close')
  }
})
</script>

<template>
  <v-dialog
    aria-label="Compare with today"
    :model-value="true"
    width="640"
    scrollable
    @update:model-value="emit('close')"
  >
    <v-card class="paper">
      <h2>Then and today</h2>
      <template v-if="held">
        <p class="soft note">
          Today’s numbers are those that you may see{{ held.newest ? `, of data to ${daySaid(held.newest)}` : '' }}.
        </p>
        <p v-for="each in held.lost" :key="each" class="soft note">{{ each }}</p>
        <ChangedNumbers :numbers="held.numbers" first="Frozen" second="Today" />
      </template>
      <p v-else class="soft" role="status">Today’s numbers are being asked.</p>
      <footer><v-btn variant="flat" color="primary" @click="emit('close')">Close</v-btn></footer>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./slip.css" />
<style scoped>
.paper {
  max-height: 82vh;
}
</style>
