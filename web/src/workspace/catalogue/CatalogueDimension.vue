<script setup lang="ts">
import { computed } from 'vue'
import type { CatalogueDimension } from '@/api/types'
import CatalogueHierarchy from './CatalogueHierarchy.vue'

const props = defineProps<{ dimension: CatalogueDimension; reasons: Record<string, string>; unfolded: boolean }>()
const first = computed(() => props.dimension.hierarchies[0])
const others = computed(() => props.dimension.hierarchies.slice(1))

function reason(hierarchy: string): string | undefined {
  return props.reasons[`${props.dimension.name}/${hierarchy}`]
}
</script>

<template>
  <CatalogueHierarchy v-if="first" :dimension="dimension.name" :hierarchy="first" :caption="dimension.caption" :description="dimension.description" :reason="reason(first.name)" :unfolded="unfolded" />
  <CatalogueHierarchy v-for="hierarchy in others" :key="hierarchy.name" inner :dimension="dimension.name" :hierarchy="hierarchy" :caption="hierarchy.caption" :description="dimension.caption" :reason="reason(hierarchy.name)" :unfolded="unfolded" />
</template>
