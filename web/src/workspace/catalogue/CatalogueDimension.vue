<script setup lang="ts">
// A dimension by its first hierarchy; its further ones fold under it.
import { computed } from 'vue'
import type { CatalogueDimension } from '@/api/types'
import { useWorkspace } from '../store'
import CatalogueFold from './CatalogueFold.vue'
import CatalogueHierarchy from './CatalogueHierarchy.vue'
import type { Folds } from './folds'

const props = defineProps<{
  dimension: CatalogueDimension
  reasons: Record<string, string>
  unfolded: boolean
  folds: Folds
  best?: boolean
}>()
const workspace = useWorkspace()
const first = computed(() => props.dimension.hierarchies[0])
const others = computed(() => props.dimension.hierarchies.slice(1))
const key = computed(() => `ways/${props.dimension.name}`)
const isUsed = computed(() => {
  const question = workspace.document?.question
  const placed = [...(question?.rows ?? []), ...(question?.columns ?? [])]
  return others.value.some((each) =>
    placed.some((one) => one.dimension === props.dimension.name && one.hierarchy === each.name),
  )
})
const isOpen = computed(() => props.unfolded || props.folds.isOpen(key.value, isUsed.value))

function reason(hierarchy: string): string | undefined {
  return props.reasons[`${props.dimension.name}/${hierarchy}`]
}
</script>

<template>
  <CatalogueHierarchy
    v-if="first"
    :dimension="dimension.name"
    :hierarchy="first"
    :caption="dimension.caption"
    :description="dimension.description"
    :reason="reason(first.name)"
    :unfolded="unfolded"
    :best="best"
  />
  <CatalogueFold
    v-if="others.length"
    inner
    :caption="others.length === 1 ? '1 more way' : `${others.length} more ways`"
    :title="`Other ways to break down by ${dimension.caption}`"
    :open="isOpen"
    @turn="folds.turn(key, isOpen)"
  >
    <CatalogueHierarchy
      v-for="hierarchy in others"
      :key="hierarchy.name"
      inner
      :dimension="dimension.name"
      :hierarchy="hierarchy"
      :caption="hierarchy.caption"
      :description="dimension.caption"
      :reason="reason(hierarchy.name)"
      :unfolded="unfolded"
    />
  </CatalogueFold>
</template>
