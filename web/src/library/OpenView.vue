<script setup lang="ts">
// A link to a view: it is opened as a draft of whoever follows it, with their own rights.
import { onMounted } from 'vue'
import { useRouter } from 'vue-router'
import { POST, body } from '@/api/client'
import { useProblem } from '@/shell/problem'

const props = defineProps<{ id: string }>()
const router = useRouter()
const problem = useProblem()

onMounted(async () => {
  try {
    const followed = await body(POST('/api/links/{id}/drafts', { params: { path: { id: props.id } } }))
    await router.replace({ name: 'draft', params: { id: followed.draft }, query: { link: props.id } })
  } catch (error) {
    problem.tell(error)
    await router.replace('/')
  }
})
</script>

<template><div /></template>
