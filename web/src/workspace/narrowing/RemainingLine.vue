<script setup lang="ts">
// How many members would remain, before it is done.
import { computed, ref, watch } from 'vue'
import { refDebounced } from '@vueuse/core'
import { POST, body } from '@/api/client'
import type { Gesture } from '@/api/types'
import { useWorkspace } from '../store'

const props = defineProps<{ gesture: Gesture; dimension: string; hierarchy?: string; level?: string }>()
const workspace = useWorkspace()
const counted = ref<{ before?: number | null; after?: number | null } | null>(null)
const entry = computed(() => workspace.catalogue?.dimensions.find((each) => each.name === props.dimension))
const hierarchy = computed(
  () => entry.value?.hierarchies.find((each) => each.name === props.hierarchy) ?? entry.value?.hierarchies[0],
)
const level = computed(
  () =>
    hierarchy.value?.levels.find((each) => each.name === props.level) ??
    placedLevel.value ??
    hierarchy.value?.levels.at(-1),
)
const placedLevel = computed(() => {
  const question = workspace.document?.question
  const placed = [...(question?.rows ?? []), ...(question?.columns ?? [])].find(
    (each) => each.dimension === props.dimension && each.hierarchy === hierarchy.value?.name,
  )
  return hierarchy.value?.levels.find((each) => each.name === placed?.level)
})
const asked = computed(() => JSON.stringify(props.gesture))
const settled = refDebounced(asked, 250)
let count = 0

const words = computed(() => {
  const found = counted.value
  if (!found || found.after === null || found.after === undefined) return ''
  const caption = level.value?.caption.toLowerCase() ?? 'member'
  return `${found.after.toLocaleString('en-GB')} of ${(found.before ?? 0).toLocaleString('en-GB')} remain, counted by ${caption}.`
})

watch(
  settled,
  async () => {
    const mine = ++count
    if (!workspace.draft || !workspace.document || !hierarchy.value || !level.value) return
    const wanted = {
      document: workspace.document,
      gesture: props.gesture,
      dimension: props.dimension,
      hierarchy: hierarchy.value.name,
      level: level.value.name,
    }
    const found = await body(
      POST('/api/models/{model}/remaining', { params: { path: { model: workspace.draft.model } }, body: wanted }),
    ).catch(() => null)
    if (mine === count) counted.value = found
  },
  { immediate: true },
)
</script>

<template>
  <p class="soft remaining" role="status">{{ words }}</p>
</template>

<style scoped>
.remaining {
  min-height: 20px;
  margin: 0;
}
</style>
