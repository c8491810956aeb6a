<script setup lang="ts">
// Opening a saved analysis begins a draft of it: the saved one changes only when it is saved. Or one that starts from its table.
import { onMounted } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { POST, body } from '@/api/client'
import { useProblem } from '@/shell/problem'

const props = defineProps<{ id: string; asTable?: boolean }>()
const route = useRoute()
const router = useRouter()
const problem = useProblem()

onMounted(async () => {
  try {
    const draft = await body(
      POST('/api/drafts', { body: props.asTable ? { table: props.id } : { analysis: props.id } }),
    )
    // An earlier version is looked at as the first step of the draft.
    await router.replace({ name: 'draft', params: { id: draft.id }, query: route.query })
  } catch (error) {
    problem.tell(error)
    await router.replace('/')
  }
})
</script>

<template><div /></template>
