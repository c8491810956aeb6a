<script setup lang="ts">
// Above a frozen copy: whose numbers they are and of when, how they stand against today's, and the way on.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { POST, body } from '@/api/client'
import type { Frozen } from '@/api/types'
import { daySaid } from '@/library/entries'
import { useProblem } from '@/shell/problem'
import { later } from '@/shell/later'
import { useWorkspace } from '../store'

const TodaySlip = later(() => import('./TodaySlip.vue'))
const props = defineProps<{ frozen: Frozen; name: string }>()
const workspace = useWorkspace()
const router = useRouter()
const problem = useProblem()
const showsToday = ref(false)
const words = computed(() => {
  const data = props.frozen.data_to ? `, of data to ${daySaid(props.frozen.data_to)}` : ''
  return `Frozen by ${props.frozen.by} on ${daySaid(props.frozen.at)}${data}. These numbers stay as they were.`
})

async function goOn(): Promise<void> {
  if (!workspace.document) return
  try {
    const asked = { document: workspace.document, words: `went on from “${props.name}”`.slice(0, 200) }
    const draft = await body(POST('/api/drafts', { body: asked }))
    await router.push({ name: 'draft', params: { id: draft.id } })
  } catch (error) {
    problem.tell(error)
  }
}
</script>

<template>
  <p class="frozen" role="status">
    <span>{{ words }}</span>
    <button type="button" class="plain-button act" @click="showsToday = true">Compare with today</button>
    <button type="button" class="plain-button act" @click="goOn">Go on in the live analysis</button>
  </p>
  <TodaySlip v-if="showsToday" @close="showsToday = false" />
</template>

<style scoped>
.frozen {
  display: flex;
  gap: 18px;
  margin: 0;
  padding: 4px 18px;
  background: rgb(var(--v-theme-saffron-tint));
  border-bottom: 1px solid rgb(var(--v-theme-saffron));
}

.act {
  text-decoration: underline;
  text-underline-offset: 2px;
}
</style>
