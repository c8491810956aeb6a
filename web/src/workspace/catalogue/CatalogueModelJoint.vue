<script setup lang="ts">
// A joint member of the model: a click takes it in, and it stands in the table wherever its hierarchy does.
import { computed } from 'vue'
import type { Catalogue } from '@/api/types'
import { useWorkspace } from '../store'

const props = defineProps<{ joint: Catalogue['joints'][number] }>()
const workspace = useWorkspace()
const title = computed(() => `Take in: ${props.joint.caption} ${props.joint.says}`)

function takeIn(): void {
  void workspace.act({ kind: 'take_in_joint', name: props.joint.name, alone: false })
}
</script>

<template>
  <div class="entry" :title="title">
    <button type="button" class="plain-button grow" data-entry="thing" tabindex="-1" @click="takeIn">
      <span class="caption">{{ joint.caption }}</span><span class="unit">of {{ joint.dimension.toLowerCase() }}</span>
    </button>
  </div>
</template>

<style scoped src="./entry.css" />
