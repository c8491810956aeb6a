<script setup lang="ts">
import { computed } from 'vue'
import type { Catalogue } from '@/api/types'
import { useWorkspace } from '../store'

const props = defineProps<{ filter: Catalogue['filters'][number] }>()
const workspace = useWorkspace()
const at = computed(() =>
  (workspace.document?.question?.filters ?? []).findIndex((each) => each.kind === 'ready' && each.name === props.filter.name),
)
const isPlaced = computed(() => at.value >= 0)
const title = computed(() => (isPlaced.value ? `Lift: ${props.filter.caption}` : props.filter.description || `Keep: ${props.filter.caption}`))

/** A ready-made filter is put in by a click, and lifted by another. */
function turn(): void {
  if (isPlaced.value) void workspace.act({ kind: 'take_filter', at: at.value })
  else void workspace.act({ kind: 'put_filter', condition: { kind: 'ready', name: props.filter.name, action: 'keep' }, at: null })
}
</script>

<template>
  <div class="entry" :class="{ placed: isPlaced }" :title="title">
    <button type="button" class="plain-button grow" :aria-pressed="isPlaced" @click="turn"><span class="caption">{{ filter.caption }}</span></button>
  </div>
</template>

<style scoped src="./entry.css" />
