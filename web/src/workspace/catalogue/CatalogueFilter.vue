<script setup lang="ts">
import { computed } from 'vue'
import type { Catalogue } from '@/api/types'
import { useAsking } from '../asking'
import { useWorkspace } from '../store'

const props = defineProps<{ filter: Catalogue['filters'][number]; best?: boolean }>()
const workspace = useWorkspace()
const asking = useAsking()
const at = computed(() =>
  (workspace.document?.question?.filters ?? []).findIndex(
    (each) => each.kind === 'ready' && each.name === props.filter.name,
  ),
)
const isPlaced = computed(() => at.value >= 0)
const title = computed(() =>
  isPlaced.value ? `Lift: ${props.filter.caption}` : props.filter.description || `Keep: ${props.filter.caption}`,
)

function put(): void {
  void workspace.act({
    kind: 'put_filter',
    condition: { kind: 'ready', name: props.filter.name, action: 'keep' },
    at: null,
  })
}

/** A ready-made filter is put in by a click, once what it asks is answered, and lifted by another. */
function turn(): void {
  const answered = new Set(workspace.document?.question?.answers?.map((each) => each.prompt))
  const open = props.filter.prompts.filter((each) => !answered.has(each))
  if (isPlaced.value) void workspace.act({ kind: 'take_filter', at: at.value })
  else if (open.length) asking.ask(open, put)
  else put()
}
</script>

<template>
  <div class="entry" :class="{ placed: isPlaced, best }" :title="title">
    <button
      type="button"
      class="plain-button grow"
      data-entry="thing"
      tabindex="-1"
      :aria-pressed="isPlaced"
      @click="turn"
    >
      <span class="caption">{{ filter.caption }}</span>
    </button>
  </div>
</template>

<style scoped src="./entry.css" />
